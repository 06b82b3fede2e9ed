/** The projects of the person signed in. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Stack from "@mui/material/Stack";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { api, saveModel } from "../api/client";
import { changed, useProjects, useStarts } from "../api/queries";
import type { ProjectSummary, StartEntry } from "../api/types";
import { Tray } from "../shell/Tray";
import { Wordmark } from "../shell/Wordmark";
import { Account } from "./Account";
import { ImportPad } from "./ImportPad";
import { ProjectCard } from "./ProjectCard";
import { PLAIN, StartField } from "./StartField";

interface Props {
  username: string;
  mayInvite: boolean;
  onOpen: (id: number) => void;
  onSignedOut: () => void;
}

export function Home({ username, mayInvite, onOpen, onSignedOut }: Props) {
  const { data: projects = null, error } = useProjects();
  const { data: starts = [] } = useStarts();
  const [refused, setRefused] = useState("");
  const problem = refused || error?.message;
  const [showsAccount, setShowsAccount] = useState(false);
  const [showsAway, setShowsAway] = useState(false);

  const [start, setStart] = useState<number | undefined>(undefined);

  const remove = async (project: ProjectSummary) => {
    if (!confirm(`Remove the project “${project.name}” with its prints? This cannot be undone.`)) return;
    await change(api.deleteProject(project.id));
  };
  const begin = start ?? starts.find((one) => one.is_default)?.id ?? PLAIN;
  const keepStart = (project: ProjectSummary) =>
    change(api.keepStart(project.id, project.name).then((kept) => setStart(kept.id)));
  const removeStart = async (one: StartEntry) => {
    if (!confirm(`Remove “${one.name}” from what projects may begin with?`)) return;
    setStart(undefined);
    await change(api.deleteStart(one.id));
  };
  const change = (done: Promise<unknown>) =>
    done.then(
      () => {
        setRefused("");
        return changed.projects();
      },
      (refusal: Error) => setRefused(refusal.message),
    );
  const away = projects?.filter((project) => project.archived).length ?? 0;

  return (
    <Box sx={{ height: "100vh", overflow: "auto" }}>
      <Stack component="header" direction="row" sx={{ px: 3, py: 1.5, alignItems: "center" }}>
        <Wordmark size={20} isTitle />
        <Box sx={{ flex: 1 }} />
        <Tray />
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
      {showsAccount && (
        <Account username={username} mayInvite={mayInvite} onClose={() => setShowsAccount(false)} />
      )}
      <Box component="main" sx={{ maxWidth: 940, mx: "auto", px: 3, py: 4 }}>
        <ImportPad onDone={onOpen} start={begin} />
        {starts.length > 0 && (
          <StartField
            starts={starts}
            chosen={begin}
            onChoose={setStart}
            onDefault={(one, isDefault) => change(api.chooseStart(one.id, isDefault))}
            onRemove={removeStart}
          />
        )}
        <Typography variant="h6" component="h2" sx={{ mt: 4, mb: 1 }}>
          Projects
        </Typography>
        {problem && <Alert severity="error">{problem}</Alert>}
        {projects?.length === 0 && (
          <Typography color="textSecondary">
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
                onExport={() => change(saveModel(project.id, "glb"))}
                onStart={() => keepStart(project)}
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
