/** The projects of the person signed in. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import ButtonBase from "@mui/material/ButtonBase";
import IconButton from "@mui/material/IconButton";
import Stack from "@mui/material/Stack";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { Lamp, Trash2 } from "lucide-react";
import { useCallback, useEffect, useState } from "react";
import { api } from "../api/client";
import type { ProjectSummary } from "../api/types";
import { Wordmark } from "../shell/Wordmark";
import { ImportPad } from "./ImportPad";

interface Props {
  username: string;
  onOpen: (id: number) => void;
  onSignedOut: () => void;
}

export function Home({ username, onOpen, onSignedOut }: Props) {
  const [projects, setProjects] = useState<ProjectSummary[] | null>(null);
  const [problem, setProblem] = useState("");

  const load = useCallback(() => {
    api.projects().then(setProjects, (error: Error) => setProblem(error.message));
  }, []);
  useEffect(load, [load]);

  const remove = async (project: ProjectSummary) => {
    if (!confirm(`Remove the project “${project.name}” with its prints? This cannot be undone.`)) return;
    await api.deleteProject(project.id).catch((error: Error) => setProblem(error.message));
    load();
  };

  return (
    <Box sx={{ height: "100vh", overflow: "auto" }}>
      <Stack direction="row" sx={{ px: 3, py: 1.5, alignItems: "center" }}>
        <Wordmark size={20} />
        <Box sx={{ flex: 1 }} />
        <Typography color="text.secondary" sx={{ mr: 2 }}>
          {username}
        </Typography>
        <Button size="small" onClick={() => api.signOut().then(onSignedOut)}>
          Sign out
        </Button>
      </Stack>
      <Box sx={{ maxWidth: 940, mx: "auto", px: 3, py: 4 }}>
        <ImportPad onDone={onOpen} />
        <Typography variant="h6" sx={{ mt: 4, mb: 1 }}>
          Projects
        </Typography>
        {problem && <Alert severity="error">{problem}</Alert>}
        {projects?.length === 0 && (
          <Typography color="text.secondary">
            There is no project yet. Bring in an asset to make the first.
          </Typography>
        )}
        <Box
          component="ul"
          aria-label="Projects"
          sx={{
            display: "grid",
            gridTemplateColumns: "repeat(auto-fill, minmax(260px, 1fr))",
            gap: 2.5,
            p: 0,
            m: 0,
            listStyle: "none",
          }}
        >
          {projects?.map((project) => (
            <ProjectCard
              key={project.id}
              project={project}
              onOpen={() => onOpen(project.id)}
              onRemove={() => remove(project)}
            />
          ))}
        </Box>
      </Box>
    </Box>
  );
}

const WHEN = new Intl.DateTimeFormat(undefined, { dateStyle: "medium", timeStyle: "short" });

interface CardProps {
  project: ProjectSummary;
  onOpen: () => void;
  onRemove: () => void;
}

/** A project by its newest picture; a lamp stands for one that nobody has looked at yet. */
function ProjectCard({ project, onOpen, onRemove }: CardProps) {
  return (
    <Box component="li" sx={{ position: "relative" }}>
      <ButtonBase
        aria-label={`Open ${project.name}`}
        onClick={onOpen}
        sx={{
          width: "100%",
          display: "block",
          textAlign: "left",
          borderRadius: 1.5,
          overflow: "hidden",
          bgcolor: "background.paper",
          "&:hover, &.Mui-focusVisible": { boxShadow: (t) => `0 0 0 2px ${t.palette.primary.main}` },
        }}
      >
        <Box sx={{ aspectRatio: "8 / 5", display: "grid", placeItems: "center", bgcolor: "#2a2a2a" }}>
          {project.cover ? (
            <Box
              component="img"
              src={project.cover}
              alt=""
              sx={{ width: "100%", height: "100%", objectFit: "cover", display: "block" }}
            />
          ) : (
            <Lamp size={34} strokeWidth={1.2} color="#6f6a63" />
          )}
        </Box>
        <Box sx={{ px: 1.5, py: 1, pr: 5 }}>
          <Typography noWrap sx={{ fontWeight: 600 }}>
            {project.name}
          </Typography>
          <Typography variant="caption" color="text.secondary">
            {WHEN.format(new Date(project.updated))}
          </Typography>
        </Box>
      </ButtonBase>
      <Tooltip title="Remove">
        <IconButton
          aria-label={`Remove ${project.name}`}
          onClick={onRemove}
          sx={{ position: "absolute", right: 6, bottom: 10 }}
        >
          <Trash2 size={16} />
        </IconButton>
      </Tooltip>
    </Box>
  );
}
