/** One open project: its document is fetched, and what belongs to it begins and ends with this. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import Stack from "@mui/material/Stack";
import Typography from "@mui/material/Typography";
import { useEffect, useRef, useState } from "react";
import { Palette } from "../actions/Palette";
import { Shortcuts } from "../actions/Shortcuts";
import { api } from "../api/client";
import { WorkspaceProvider } from "../store/context";
import { forgetAsset } from "../store/jobs";
import { isStop, STOPS } from "../store/view";
import { openWorkspace, type Workspace } from "../store/workspace";
import { Shell } from "./Shell";

interface OpenProjectProps {
  id: number;
  stopInAddress: string | undefined;
  onLeave: () => void;
}

export function OpenProject({ id, stopInAddress, onLeave }: OpenProjectProps) {
  const [workspace, setWorkspace] = useState<Workspace | null>(null);
  const [problem, setProblem] = useState("");
  const firstStop = useRef(stopInAddress);

  useEffect(() => {
    let opened: Workspace | null = null;
    let gone = false;
    forgetAsset(id);
    api.project(id).then(
      (project) => {
        if (gone) return;
        opened = openWorkspace(project, isStop(firstStop.current) ? firstStop.current : STOPS[0]);
        setWorkspace(opened);
      },
      (error: Error) => setProblem(error.message),
    );
    return () => {
      gone = true;
      opened?.close();
    };
  }, [id]);

  if (problem) {
    return (
      <Stack spacing={2} sx={{ height: "100vh", alignItems: "center", justifyContent: "center" }}>
        <Alert severity="error">{problem}</Alert>
        <Button onClick={onLeave}>All projects</Button>
      </Stack>
    );
  }
  if (!workspace) return <Opening />;
  return (
    <WorkspaceProvider value={workspace}>
      <Shortcuts />
      <Palette />
      <Shell stopInAddress={stopInAddress} onLeave={onLeave} />
    </WorkspaceProvider>
  );
}

/** While the document is on its way. */
function Opening() {
  return (
    <Box sx={{ height: "100vh", display: "grid", placeItems: "center" }}>
      <Box role="status" sx={{ width: 240, textAlign: "center" }}>
        <Typography color="textSecondary" sx={{ mb: 1 }}>
          Opening the project
        </Typography>
        <LinearProgress color="secondary" aria-label="Opening the project" />
      </Box>
    </Box>
  );
}
