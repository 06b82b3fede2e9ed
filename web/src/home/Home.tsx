/** The projects of the person signed in. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import List from "@mui/material/List";
import ListItem from "@mui/material/ListItem";
import ListItemButton from "@mui/material/ListItemButton";
import ListItemText from "@mui/material/ListItemText";
import Stack from "@mui/material/Stack";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { Trash2 } from "lucide-react";
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
      <Box sx={{ maxWidth: 720, mx: "auto", px: 3, py: 4 }}>
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
        <List>
          {projects?.map((project) => (
            <ListItem
              key={project.id}
              disablePadding
              secondaryAction={
                <Tooltip title="Remove">
                  <IconButton aria-label={`Remove ${project.name}`} onClick={() => remove(project)}>
                    <Trash2 size={16} />
                  </IconButton>
                </Tooltip>
              }
            >
              <ListItemButton onClick={() => onOpen(project.id)} sx={{ borderRadius: 1 }}>
                <ListItemText
                  primary={project.name}
                  secondary={`Changed ${new Date(project.updated).toLocaleString()}`}
                />
              </ListItemButton>
            </ListItem>
          ))}
        </List>
      </Box>
    </Box>
  );
}
