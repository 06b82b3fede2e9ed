/** The picture: shows the newest frame, takes the hand's movements, and asks what is under a click. */
import Box from "@mui/material/Box";
import { useEffect, useRef } from "react";
import type { Camera } from "../api/types";
import { useSlice, useWorkspace } from "../store/context";
import { cameraPatch } from "../store/workspace";
import { SURROUND } from "../theme/theme";
import { HostVeil } from "./HostVeil";
import { dolly, orbit, pan } from "./orbit";

const CLICK_PIXELS = 4;
const ORBIT_RADIANS_A_PICTURE = Math.PI;
const WHEEL_STEP = 1.1;
const WHEEL_REST_MS = 250;

interface Drag {
  x: number;
  y: number;
  camera: Camera;
  panning: boolean;
  moved: boolean;
}

export function Picture() {
  const workspace = useWorkspace();
  const frame = useSlice((s) => s.frame);
  const shape = useSlice((s) => s.scene.print.width / s.scene.print.height);
  const surround = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const drag = useRef<Drag | null>(null);
  const wheelRest = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);

  useEffect(() => {
    if (!frame) return;
    let current = true;
    createImageBitmap(frame.picture).then((bitmap) => {
      const target = canvas.current;
      if (current && target) {
        if (target.width !== bitmap.width || target.height !== bitmap.height) {
          target.width = bitmap.width;
          target.height = bitmap.height;
        }
        target.getContext("2d")?.drawImage(bitmap, 0, 0);
        target.dataset.samples = String(frame.samples);
        target.dataset.serial = String(frame.serial);
        target.dataset.revision = String(frame.revision);
        target.dataset.state = frame.settled ? "settled" : frame.coarse ? "coarse" : "refining";
      }
      bitmap.close();
    });
    return () => {
      current = false;
    };
  }, [frame]);

  useEffect(() => {
    const box = surround.current;
    if (!box) return;
    let rest: ReturnType<typeof setTimeout> | undefined;
    const observer = new ResizeObserver(() => {
      clearTimeout(rest);
      rest = setTimeout(() => workspace.resize(box.clientWidth, box.clientHeight), 80);
    });
    observer.observe(box);
    return () => {
      clearTimeout(rest);
      observer.disconnect();
    };
  }, [workspace]);

  // React listens to wheel events passively; the page must not scroll with the picture.
  useEffect(() => {
    const target = canvas.current;
    if (!target) return;
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      const camera = dolly(workspace.getState().scene.camera, WHEEL_STEP ** Math.sign(event.deltaY));
      workspace.preview(cameraPatch(camera));
      clearTimeout(wheelRest.current);
      wheelRest.current = setTimeout(
        () => workspace.commit(cameraPatch(workspace.getState().scene.camera), "Dolly"),
        WHEEL_REST_MS,
      );
    };
    target.addEventListener("wheel", onWheel, { passive: false });
    return () => target.removeEventListener("wheel", onWheel);
  }, [workspace]);

  const movedCamera = (event: React.PointerEvent, from: Drag): Camera => {
    const width = canvas.current?.clientWidth ?? 1;
    const right = (event.clientX - from.x) / width;
    const down = (event.clientY - from.y) / width;
    return from.panning
      ? pan(from.camera, -right, down)
      : orbit(from.camera, -right * ORBIT_RADIANS_A_PICTURE, down * ORBIT_RADIANS_A_PICTURE);
  };

  const onPointerDown = (event: React.PointerEvent) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    const panning = event.button !== 0 || event.shiftKey;
    drag.current = {
      x: event.clientX,
      y: event.clientY,
      camera: workspace.getState().scene.camera,
      panning,
      moved: false,
    };
  };

  const onPointerMove = (event: React.PointerEvent) => {
    const from = drag.current;
    if (!from) return;
    from.moved ||= Math.hypot(event.clientX - from.x, event.clientY - from.y) > CLICK_PIXELS;
    if (from.moved) workspace.preview(cameraPatch(movedCamera(event, from)));
  };

  const onPointerUp = (event: React.PointerEvent) => {
    const from = drag.current;
    drag.current = null;
    if (!from) return;
    if (from.moved) {
      workspace.commit(cameraPatch(movedCamera(event, from)), from.panning ? "Pan" : "Orbit");
      return;
    }
    const box = event.currentTarget.getBoundingClientRect();
    workspace.pick((event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height);
  };

  return (
    <Box
      ref={surround}
      data-testid="surround"
      sx={{
        position: "absolute",
        inset: 0,
        bgcolor: SURROUND,
        display: "grid",
        placeItems: "center",
        overflow: "hidden",
        containerType: "size",
      }}
    >
      <Box
        component="canvas"
        ref={canvas}
        width={16}
        height={10}
        aria-label="Proof of the scene. Drag to orbit, Shift-drag to pan, wheel to dolly, click a part to select it."
        data-testid="picture"
        onPointerDown={onPointerDown}
        onPointerMove={onPointerMove}
        onPointerUp={onPointerUp}
        onPointerCancel={() => {
          drag.current = null;
          workspace.abandon();
        }}
        onContextMenu={(event: React.MouseEvent) => event.preventDefault()}
        sx={{
          width: `min(100cqw, 100cqh * ${shape})`,
          height: `min(100cqh, 100cqw / ${shape})`,
          visibility: frame ? "visible" : "hidden",
          touchAction: "none",
          cursor: "grab",
          "&:active": { cursor: "grabbing" },
        }}
      />
      <HostVeil />
    </Box>
  );
}
