/** One open project: bar, walk, drawer, picture, shelf. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import ButtonBase from "@mui/material/ButtonBase";
import LinearProgress from "@mui/material/LinearProgress";
import Stack from "@mui/material/Stack";
import Typography from "@mui/material/Typography";
import { useEffect, useMemo, useRef, useState } from "react";
import { Group, Panel, Separator } from "react-resizable-panels";
import { useLocation } from "wouter";
import { Palette } from "../actions/Palette";
import { Shortcuts } from "../actions/Shortcuts";
import { api } from "../api/client";
import { FindingContext } from "../controls/finding";
import { useSlice, useWorkspace, WorkspaceProvider } from "../store/context";
import { forgetAsset } from "../store/jobs";
import { keep, kept } from "../store/kept";
import { isStop, STOPS, type Stop } from "../store/view";
import { openWorkspace, type Workspace } from "../store/workspace";
import { Views } from "../viewport/Views";
import { DrawerHead } from "./DrawerHead";
import { type StopView, stops } from "./stops";
import { BAR_HEIGHT, TopBar } from "./TopBar";

const WALK_WIDTH = 72;
const SHELF_HEIGHT = 112;

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

/** The stop stands in the address, so that reloading, going back and a bookmark lead to it. */
function useStopInAddress(named: string | undefined) {
  const workspace = useWorkspace();
  const [, navigate] = useLocation();
  const shown = useRef<Stop>(STOPS[0]);
  shown.current = isStop(named) ? named : STOPS[0];
  useEffect(() => {
    const stop = isStop(named) ? named : STOPS[0];
    if (workspace.getState().stop !== stop) workspace.go(stop);
  }, [workspace, named]);
  useEffect(
    () =>
      workspace.subscribe(({ stop, project }, before) => {
        if (stop !== before.stop && stop !== shown.current) navigate(`/projects/${project}/${stop}`);
      }),
    [workspace, navigate],
  );
}

/** The window is called as what is open in it. */
function useTitle() {
  const name = useSlice((s) => s.name);
  useEffect(() => {
    const before = document.title;
    document.title = `${name} · ${before}`;
    return () => {
      document.title = before;
    };
  }, [name]);
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

const [DRAWER, STAGE] = ["drawer", "stage"];
const [NARROWEST, USUAL, WIDEST] = [232, 288, 520];

function Shell({ stopInAddress, onLeave }: { stopInAddress: string | undefined; onLeave: () => void }) {
  useLeavingWarning();
  useStopInAddress(stopInAddress);
  useTitle();
  const alone = useSlice((s) => s.alone);
  const panels = useSlice((s) => s.panels) && !alone;
  const active = useSlice((s) => s.stop);
  const stop = stops.find((s) => s.id === active) ?? stops[0]!;
  const { shelf: Shelf } = stop;
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
        <Group orientation="horizontal" style={{ flex: 1, minWidth: 0 }}>
          {panels && (
            <>
              <Panel
                id={DRAWER}
                defaultSize={kept(DRAWER!, USUAL!)}
                minSize={NARROWEST!}
                maxSize={WIDEST!}
                groupResizeBehavior="preserve-pixel-size"
                onResize={({ inPixels }) => keep(DRAWER!, Math.round(inPixels))}
                style={{ overflow: "hidden" }}
              >
                <Drawer stop={stop} />
              </Panel>
              <Separator aria-label="Width of the drawer" className="drawer-edge" />
            </>
          )}
          <Panel id={STAGE} style={{ overflow: "hidden" }}>
            <Box sx={{ height: "100%", minWidth: 0, display: "flex", flexDirection: "column" }}>
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
                    bgcolor: "background.paper",
                    borderTop: "1px solid",
                    borderColor: "divider",
                  }}
                >
                  <Shelf />
                </Box>
              )}
            </Box>
          </Panel>
        </Group>
      </Box>
    </Box>
  );
}

/** What there is to find in the drawer of a stop. */
const findsAt = (stop: Stop, hasSelection: boolean) =>
  stop === "asset" || (stop === "materials" && !hasSelection) ? "a part" : "a control";

function Drawer({ stop: { id, label, drawer: Controls } }: { stop: StopView }) {
  const hasSelection = useSlice((s) => s.selection.length > 0);
  const [text, setText] = useState("");
  const [changedOnly, setChangedOnly] = useState(false);
  const finding = useMemo(
    () => ({ query: text.trim().toLowerCase(), changedOnly: changedOnly && id !== "asset" }),
    [text, changedOnly, id],
  );
  // Another stop has other controls.
  // biome-ignore lint/correctness/useExhaustiveDependencies: it is the change of the stop that empties the field
  useEffect(() => setText(""), [id]);
  return (
    <Box
      component="aside"
      aria-label={label}
      sx={{
        height: "100%",
        overflowY: "auto",
        scrollbarWidth: "thin",
        px: 2,
        pb: 2,
        bgcolor: "background.paper",
      }}
    >
      <DrawerHead
        finds={findsAt(id, hasSelection)}
        text={text}
        onText={setText}
        changedOnly={finding.changedOnly}
        onChangedOnly={id === "asset" ? undefined : setChangedOnly}
      />
      <FindingContext.Provider value={finding}>
        <Controls />
      </FindingContext.Provider>
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
