/** What surrounds the picture: bar, walk, drawer, shelf; and what the window does for all of them. */
import Box from "@mui/material/Box";
import { useEffect, useRef } from "react";
import { Group, Panel, Separator } from "react-resizable-panels";
import { useLocation } from "wouter";
import { Timeline } from "../motion/Timeline";
import { useSlice, useWorkspace } from "../store/context";
import { keep, kept } from "../store/kept";
import { isStop, STOPS, type Stop } from "../store/view";
import { TakesOver } from "../takes/TakesOver";
import { Views } from "../viewport/Views";
import { Drawer } from "./Drawer";
import { Notices } from "./Notices";
import { stops } from "./stops";
import { BAR_HEIGHT, TopBar } from "./TopBar";
import { Walk } from "./Walk";

const SHELF_HEIGHT = 112;
const [DRAWER, STAGE] = ["drawer", "stage"];
const [NARROWEST, USUAL, WIDEST] = [232, 288, 520];

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

interface ShellProps {
  stopInAddress: string | undefined;
  onLeave: () => void;
}

export function Shell({ stopInAddress, onLeave }: ShellProps) {
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
                {/* Another stop has other controls to find. */}
                <Drawer key={stop.id} stop={stop} />
              </Panel>
              <Separator aria-label="Width of the drawer" className="drawer-edge" />
            </>
          )}
          <Panel id={STAGE} style={{ overflow: "hidden" }}>
            <Box sx={{ height: "100%", minWidth: 0, display: "flex", flexDirection: "column" }}>
              <Box component="main" sx={{ flex: 1, position: "relative", minHeight: 0 }}>
                <Views />
                <TakesOver />
                <Notices />
              </Box>
              {!alone && <Timeline />}
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
