/** Values of the pixel under the pointer, once pixels are large enough to be pointed at; how far it is from its brand colour. */
import Box from "@mui/material/Box";
import { Fragment, memo, type RefObject, useEffect, useRef, useState } from "react";
import { said } from "../compare/fidelity";
import type { PixelValues } from "../socket/panes";
import { useScene, useSlice, useWorkspace } from "../store/context";
import type { PaneNumber } from "../store/panes";
import type { Place } from "./layout";

const SHOWN_FROM = 4;
const ASK_EVERY_MS = 60;

interface Props {
  number: PaneNumber;
  surround: RefObject<HTMLDivElement | null>;
  place: Place;
}

export const PixelReadout = memo(function PixelReadout({ number, surround, place }: Props) {
  const workspace = useWorkspace();
  const isLarge = useSlice((s) => (s.panes[number]?.magnifier?.factor ?? 0) >= SHOWN_FROM);
  const hasBrands = useScene((scene) => Object.keys(scene.brand_colors).length > 0);
  const compares = useSlice((s) => s.stop === "compare");
  const shown = isLarge || (hasBrands && compares);
  const [values, setValues] = useState<PixelValues | null>(null);
  const pointer = useRef<{ clientX: number; clientY: number } | null>(null);
  const { left, top, width, height } = place;

  // Where the pointer is must be known before pixels are large: the wheel that magnifies does not move it.
  useEffect(() => {
    const note = (event: PointerEvent) => {
      pointer.current = event;
    };
    window.addEventListener("pointermove", note, { capture: true });
    return () => window.removeEventListener("pointermove", note, { capture: true });
  }, []);

  useEffect(() => {
    const box = surround.current;
    if (!shown || !box) {
      setValues(null);
      return;
    }
    let waiting = false;
    const ask = async () => {
      if (waiting || !pointer.current) return;
      waiting = true;
      const at = box.getBoundingClientRect();
      const x = (pointer.current.clientX - at.left - left) / width;
      const y = (pointer.current.clientY - at.top - top) / height;
      const within = x >= 0 && x < 1 && y >= 0 && y < 1;
      setValues(within ? await workspace.values(number, x, y) : null);
      setTimeout(() => {
        waiting = false;
      }, ASK_EVERY_MS);
    };
    ask();
    box.addEventListener("pointermove", ask);
    return () => box.removeEventListener("pointermove", ask);
  }, [shown, surround, workspace, number, left, top, width, height]);

  // Where no pixel can be told from the next, only how far it is from what it should be.
  if (!shown || !values || !(isLarge || values.brands?.length)) return null;
  return (
    <Box
      data-testid="pixel-values"
      sx={{
        position: "absolute",
        right: 10,
        top: 10,
        px: 1.25,
        py: 0.75,
        borderRadius: 1.5,
        bgcolor: "rgba(31,31,31,0.86)",
        fontSize: 11.5,
        display: "grid",
        gridTemplateColumns: "auto auto",
        columnGap: 1.25,
        "& span:nth-of-type(odd)": { color: "text.secondary" },
      }}
    >
      <span>Pixel</span>
      <span>{values.pixel.join(", ")}</span>
      <span>Linear</span>
      <span>{values.linear.map((v) => v.toPrecision(4)).join("  ")}</span>
      <span>Display</span>
      <span>{values.display.join("  ")}</span>
      {values.brands?.map(({ name, delta_e }) => (
        <Fragment key={name}>
          <span>{name}</span>
          <span>
            ΔE {delta_e.toFixed(1)}, {said(delta_e)}
          </span>
        </Fragment>
      ))}
    </Box>
  );
});
