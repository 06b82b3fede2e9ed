/** The rectangle that the hand draws over the picture to select what is seen in it. */
import Box from "@mui/material/Box";
import type { Loupe } from "../socket/panes";
import type { Place } from "./layout";

export function AreaFrame({ edges: [left, top, right, bottom], place }: { edges: Loupe; place: Place }) {
  return (
    <Box
      data-testid="area"
      aria-hidden
      sx={{ border: "1px dashed", borderColor: "primary.main", bgcolor: "rgba(185,120,171,0.12)" }}
      style={{
        position: "absolute",
        left: place.left + left * place.width,
        top: place.top + top * place.height,
        width: (right - left) * place.width,
        height: (bottom - top) * place.height,
        pointerEvents: "none",
      }}
    />
  );
}
