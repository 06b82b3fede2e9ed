/** The projects of the person signed in. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Stack from "@mui/material/Stack";
import Typography from "@mui/material/Typography";
import { useCallback, useEffect, useState } from "react";
import { api } from "../api/client";
import type { ProjectSummary } from "../api/types";
import { Wordmark } from "../shell/Wordmark";
import { Account } from "./Account";
import { ImportPad } from "./ImportPad";
import { ProjectCard } from "./ProjectCard";

interface Props {
  username: string;
  onOpen: (id: number) => void;
  onSignedOut: () => void;
}

export function Home({ username, onOpen, onSignedOut }: Props) {
  const [projects, setProjects] = useState<ProjectSummary[] | null>(null);
  const [problem, setProblem] = useState("");
  const [showsAccount, setShowsAccount] = useState(false);
  const [showsAway, setShowsAway] = useState(false);

  const load = useCallback(() => {
    api.projects().then(setProjects, (error: Error) => setProblem(error.message));
  }, []);
  useEffect(load, [load]);

  const remove = async (project: ProjectSummary) => {
    if (!confirm(`Remove the project “${project.name}” with its prints? This cannot be undone.`)) return;
    await change(api.deleteProject(project.id));
  };
  const change = (done: Promise<unknown>) =>
    done.then(
      () => {
        setProblem("");
        load();
      },
      (error: Error) => setProblem(error.message),
    );
  const away = projects?.filter((project) => project.archived).length ?? 0;

  return (
    <Box sx={{ height: "100vh", overflow: "auto" }}>
      <Stack direction="row" sx={{ px: 3, py: 1.5, alignItems: "center" }}>
        <Wordmark size={20} />
        <Box sx={{ flex: 1 }} />
        <Button
          size="small"
          color="inherit"
          aria-haspopup="dialog"
          onClick={() => setShowsAccount(true)}
          sx={{ mr: 1 }}
        >
          {username}
        </Button>
        <Button size="small" onClick={() => api.signOut().then(onSignedOut)}>
          Sign out
        </Button>
      </Stack>
      {showsAccount && <Account username={username} onClose={() => setShowsAccount(false)} />}
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
          {projects
            ?.filter((project) => showsAway || !project.archived)
            .map((project) => (
              <ProjectCard
                key={project.id}
                project={project}
                onOpen={() => onOpen(project.id)}
                onRename={(name) => change(api.changeProject(project.id, { name }))}
                onCopy={() => change(api.copyProject(project.id))}
                onArchive={(archived) => change(api.changeProject(project.id, { archived }))}
                onRemove={() => remove(project)}
              />
            ))}
        </Box>
        {away > 0 && (
          <Button size="small" color="inherit" onClick={() => setShowsAway(!showsAway)} sx={{ mt: 2 }}>
            {showsAway ? "Hide what is put away" : `Show ${away} put away`}
          </Button>
        )}
      </Box>
    </Box>
  );
}
