/** A print as it is so far, small; pressed, it is looked at in large. */
import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import { glimpseUrl } from "../api/client";
import type { PrintEntry } from "../api/types";

interface GlimpseProps {
  print: PrintEntry;
  onLook: () => void;
  tabIndex?: 0 | -1;
}

export function Glimpse({ print, onLook, tabIndex = 0 }: GlimpseProps) {
  if (print.glimpses === 0) return null;
  return (
    <ButtonBase
      tabIndex={tabIndex}
      onClick={onLook}
      aria-label={`Look at print ${print.id}`}
      sx={{
        width: 88,
        height: 58,
        flexShrink: 0,
        alignSelf: "center",
        borderRadius: 0.5,
        overflow: "hidden",
      }}
    >
      <GlimpsePicture print={print} />
    </ButtonBase>
  );
}

export const GlimpsePicture = ({ print }: { print: PrintEntry }) => (
  <Box
    component="img"
    alt=""
    src={glimpseUrl(print)}
    data-testid={`glimpse-${print.id}`}
    sx={{
      display: "block",
      width: "100%",
      height: "100%",
      objectFit: "contain",
      bgcolor: "background.default",
    }}
  />
);
