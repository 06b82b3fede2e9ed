/** One pane: its picture, what is drawn over it, and its own bar. */
import Box from "@mui/material/Box";
import { useEffect, useRef, useState } from "react";
import { LayoutDrawing } from "../camera/Layout";
import { UnrolledMap } from "../light/UnrolledMap";
import { useSlice, useWorkspace } from "../store/context";
import { idOf, type PaneNumber, SHOT } from "../store/panes";
import { SURROUND } from "../theme/theme";
import { AreaFrame } from "./AreaFrame";
import { DecalFrame } from "./DecalFrame";
import { Guides } from "./Guides";
import { Handles } from "./Handles";
import { HazeFrame } from "./HazeFrame";
import { Histogram } from "./Histogram";
import { HostVeil } from "./HostVeil";
import { LightLegend, MeshLegend } from "./Legends";
import { LightMarks } from "./LightMarks";
import { LookEdge } from "./LookEdge";
import { LoupeFrame } from "./LoupeFrame";
import { MaskFrame } from "./MaskFrame";
import { MatchLines } from "./MatchLines";
import { MeterMarks } from "./MeterMarks";
import { PaneBar } from "./PaneBar";
import { PixelReadout } from "./PixelReadout";
import { PlacementFrame } from "./PlacementFrame";
import { PointerMenu } from "./PointerMenu";
import { Readout } from "./Readout";
import { SpanLine } from "./SpanLine";
import { SunArc } from "./SunArc";
import { useDrop } from "./useDrop";
import { useGestures } from "./useGestures";
import { usePicture } from "./usePicture";

const CURSORS = {
  camera: "grab",
  area: "crosshair",
  loupe: "crosshair",
  focus: "cell",
  stick: "crosshair",
  walk: "all-scroll",
  turn: "ew-resize",
  throw: "grab",
  glint: "crosshair",
  aim: "crosshair",
  card: "crosshair",
  grey: "crosshair",
  meter: "crosshair",
} as const;
const SHARP_FROM = 2;

export function PaneView({ number }: { number: PaneNumber }) {
  const workspace = useWorkspace();
  const frame = useSlice((s) => s.panes[number]?.frame ?? null);
  const overlay = useSlice((s) => s.panes[number]?.overlay ?? null);
  const loupe = useSlice((s) => s.panes[number]?.loupe ?? null);
  const magnifier = useSlice((s) => s.panes[number]?.magnifier ?? null);
  const shape = useSlice((s) => s.scene.print.width / s.scene.print.height);
  const tool = useSlice((s) => s.tool);
  const surround = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const drawing = useRef<HTMLCanvasElement>(null);
  const [css, setCss] = useState({ width: 960, height: 600 });
  const full = frame?.full ?? { width: css.width, height: css.width / shape };
  const { place, saying, drawn, area, span, menu, closeMenu, handlers } = useGestures(
    number,
    surround,
    css,
    full,
  );
  const drop = useDrop(number);
  usePicture(canvas, frame);
  usePicture(drawing, overlay);

  useEffect(() => {
    const box = surround.current;
    if (!box) return;
    let rest: ReturnType<typeof setTimeout> | undefined;
    const observer = new ResizeObserver(() => {
      const size = { width: box.clientWidth, height: box.clientHeight };
      setCss(size);
      clearTimeout(rest);
      const dots = window.devicePixelRatio || 1;
      rest = setTimeout(
        () =>
          workspace.setPane(number, {
            width: Math.round(size.width * dots),
            height: Math.round(size.height * dots),
          }),
        80,
      );
    });
    observer.observe(box);
    return () => {
      clearTimeout(rest);
      observer.disconnect();
    };
  }, [workspace, number]);

  const sheet = {
    position: "absolute",
    left: place.left,
    top: place.top,
    width: place.width,
    height: place.height,
  } as const;
  const pixelated = magnifier !== null && magnifier.factor >= SHARP_FROM ? "pixelated" : "auto";
  const shot = number === SHOT;
  return (
    <Box
      ref={surround}
      data-testid={idOf(number, "surround")}
      onPointerEnter={() => workspace.set({ active: number })}
      sx={{ position: "relative", flex: 1, minWidth: 0, minHeight: 0, bgcolor: SURROUND, overflow: "hidden" }}
    >
      <canvas
        ref={canvas}
        width={16}
        height={10}
        aria-label="Proof of the scene. Drag to orbit, Shift-drag to pan, wheel to dolly, Alt-wheel to zoom, Ctrl-wheel to magnify, click a part to select it."
        data-testid={idOf(number, "picture")}
        {...handlers}
        {...drop}
        style={{
          ...sheet,
          imageRendering: pixelated,
          visibility: frame ? "visible" : "hidden",
          touchAction: "none",
          cursor: CURSORS[tool],
        }}
      />
      <canvas
        ref={drawing}
        width={16}
        height={10}
        aria-hidden
        data-testid={idOf(number, "overlay")}
        style={{
          ...sheet,
          imageRendering: pixelated,
          pointerEvents: "none",
          visibility: overlay && frame ? "visible" : "hidden",
        }}
      />
      {shot && <LayoutDrawing place={place} />}
      {shot && <Guides place={place} />}
      {frame && <LookEdge number={number} place={place} />}
      {frame && shot && <MaskFrame place={place} />}
      {frame && <SunArc place={place} frame={frame} />}
      {frame && <LightMarks place={place} frame={frame} />}
      {frame && shot && <HazeFrame place={place} frame={frame} />}
      {frame && <DecalFrame number={number} place={place} frame={frame} />}
      {frame && <PlacementFrame number={number} place={place} frame={frame} />}
      {frame && <Handles number={number} place={place} frame={frame} />}
      {(drawn ?? loupe) && (
        <LoupeFrame
          loupe={drawn ?? loupe!}
          place={place}
          drawing={drawn !== null}
          onChange={(next) => workspace.setPane(number, { loupe: next })}
        />
      )}
      {shot && <MatchLines place={place} />}
      {span && <SpanLine span={span} place={place} />}
      {area && <AreaFrame edges={area} place={place} />}
      <PaneBar number={number} />
      <LightLegend number={number} />
      <MeshLegend number={number} />
      <Readout number={number}>
        <Histogram number={number} />
      </Readout>
      {frame && <MeterMarks number={number} place={place} frame={frame} surround={surround} />}
      <PixelReadout number={number} surround={surround} place={place} />
      {saying && (
        <Box
          role="status"
          data-testid="saying"
          sx={{
            position: "absolute",
            bottom: 14,
            left: "50%",
            transform: "translateX(-50%)",
            px: 1.5,
            py: 0.5,
            borderRadius: 4,
            bgcolor: "rgba(23,23,23,0.86)",
            fontSize: 12.5,
            pointerEvents: "none",
          }}
        >
          {saying}
        </Box>
      )}
      {menu && <PointerMenu number={number} place={menu} onClose={closeMenu} />}
      {shot && <UnrolledMap />}
      {shot && <HostVeil />}
    </Box>
  );
}
