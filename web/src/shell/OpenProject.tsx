/** One open project: bar, walk, drawer, picture, shelf. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import ButtonBase from "@mui/material/ButtonBase";
import Stack from "@mui/material/Stack";
import Typography from "@mui/material/Typography";
import { useEffect, useState } from "react";
import { Palette } from "../actions/Palette";
import { Shortcuts } from "../actions/Shortcuts";
import { api } from "../api/client";
import { useSlice, useWorkspace, WorkspaceProvider } from "../store/context";
import { openWorkspace, type Workspace } from "../store/workspace";
import { Views } from "../viewport/Views";
import { stops } from "./stops";
import { BAR_HEIGHT, TopBar } from "./TopBar";

const WALK_WIDTH = 72;
const DRAWER_WIDTH = 272;
const SHELF_HEIGHT = 112;

export function OpenProject({ id, onLeave }: { id: number; onLeave: () => void }) {
  const [workspace, setWorkspace] = useState<Workspace | null>(null);
  const [problem, setProblem] = useState("");

  useEffect(() => {
    let opened: Workspace | null = null;
    let gone = false;
    api.project(id).then(
      (project) => {
        if (gone) return;
        opened = openWorkspace(project);
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
  if (!workspace) return null;
  return (
    <WorkspaceProvider value={workspace}>
      <Shortcuts />
      <Palette />
      <Shell onLeave={onLeave} />
    </WorkspaceProvider>
  );
}

/** Edits that are on their way, or in hand, are not lost by closing the window unawares. */
function useLeavingWarning() {
  const workspace = useWorkspace();
  useEffect(() => {
    const onLeave = (event: BeforeUnloadEvent) => {
      workspace.letGo();
      if (!workspace.getState().saved) event.preventDefault();
    };
    addEventListener("beforeunload", onLeave);
    return () => removeEventListener("beforeunload", onLeave);
  }, [workspace]);
}

function Shell({ onLeave }: { onLeave: () => void }) {
  useLeavingWarning();
  const alone = useSlice((s) => s.alone);
  const panels = useSlice((s) => s.panels) && !alone;
  const active = useSlice((s) => s.stop);
  const stop = stops.find((s) => s.id === active) ?? stops[0]!;
  const { drawer: Drawer, shelf: Shelf } = stop;
  return (
    <Box
      sx={{
        height: "100vh",
        display: "grid",
        // However much a shelf holds, the page is as wide as the window.
        gridTemplateColumns: "minmax(0, 1fr)",
        gridTemplateRows: alone ? "minmax(0, 1fr)" : `${BAR_HEIGHT}px minmax(0, 1fr)`,
        overflow: "hidden",
      }}
    >
      {!alone && <TopBar onLeave={onLeave} />}
      <Box sx={{ display: "flex", minHeight: 0 }}>
        {!alone && <Walk />}
        {panels && (
          <Box
            component="aside"
            aria-label={stop.label}
            sx={{
              width: DRAWER_WIDTH,
              flexShrink: 0,
              overflowY: "auto",
              scrollbarWidth: "thin",
              p: 2,
              bgcolor: "background.paper",
              borderRight: "1px solid",
              borderColor: "divider",
            }}
          >
            <Drawer />
          </Box>
        )}
        <Box sx={{ flex: 1, minWidth: 0, display: "flex", flexDirection: "column" }}>
          <Box component="main" sx={{ flex: 1, position: "relative", minHeight: 0 }}>
            <Views />
            <Notices />
          </Box>
          {panels && Shelf && (
            <Box
              component="section"
              aria-label={`${stop.label} shelf`}
              sx={{
                height: SHELF_HEIGHT,
                px: 2,
                py: 1.25,
                overflowX: "auto",
                scrollbarWidth: "thin",
                bgcolor: "background.paper",
                borderTop: "1px solid",
                borderColor: "divider",
              }}
            >
              <Shelf />
            </Box>
          )}
        </Box>
      </Box>
    </Box>
  );
}

function Walk() {
  const workspace = useWorkspace();
  const active = useSlice((s) => s.stop);
  const panels = useSlice((s) => s.panels);
  return (
    <Stack
      component="nav"
      aria-label="Walk"
      sx={{
        width: WALK_WIDTH,
        flexShrink: 0,
        py: 1,
        bgcolor: "background.default",
        borderRight: "1px solid",
        borderColor: "divider",
      }}
    >
      {stops.map(({ id, label, icon: Icon }) => {
        const current = id === active && panels;
        return (
          <ButtonBase
            key={id}
            onClick={() => (current ? workspace.togglePanels() : workspace.go(id))}
            aria-current={current ? "step" : undefined}
            sx={{
              py: 1.1,
              flexDirection: "column",
              gap: 0.4,
              color: current ? "text.primary" : "text.secondary",
              borderLeft: "3px solid",
              borderColor: current ? "primary.main" : "transparent",
              bgcolor: current ? "rgba(185,120,171,0.14)" : "transparent",
              "&:hover": { color: "text.primary" },
            }}
          >
            <Icon size={19} strokeWidth={1.7} aria-hidden />
            <Typography variant="caption" sx={{ fontSize: 11 }}>
              {label}
            </Typography>
          </ButtonBase>
        );
      })}
    </Stack>
  );
}

function OpenIt({ project }: { project: number }) {
  return (
    <Button size="small" color="inherit" href={`#/projects/${project}`}>
      Open
    </Button>
  );
}

function Notices() {
  const workspace = useWorkspace();
  const notices = useSlice((s) => s.notices);
  return (
    <Stack spacing={1} sx={{ position: "absolute", right: 12, bottom: 12, maxWidth: 380, zIndex: 2 }}>
      {notices.map((notice) => (
        <Alert
          key={notice.text}
          severity={notice.severity}
          onClose={() => workspace.dismiss(notice)}
          action={notice.project !== undefined ? <OpenIt project={notice.project} /> : undefined}
          sx={{ overflowWrap: "anywhere" }}
        >
          {notice.text}
        </Alert>
      ))}
    </Stack>
  );
}
