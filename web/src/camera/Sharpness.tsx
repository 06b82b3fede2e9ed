/** Between which depths the shot is sharp, and what of that is hardly meant for this asset. */
import Typography from "@mui/material/Typography";
import { useCallback, useMemo } from "react";
import { Doubts } from "../controls/Doubts";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { useAnswer } from "../store/useAnswer";

/** As long as the focus needs to be read: 0.412 m, 4.2 mm, 31 m. */
function length(metres: number): string {
  if (metres < 0.01) return `${Number((metres * 1000).toPrecision(3))} mm`;
  return `${Number(metres.toPrecision(metres < 10 ? 3 : 4)).toLocaleString("en")} m`;
}

export function Sharpness() {
  const workspace = useWorkspace();
  const camera = useScene((s) => s.camera);
  const parts = useScene((s) => s.parts);
  const asset = useScene((s) => s.asset);
  const printed = useScene((s) => s.print);
  const host = useSlice((s) => s.host);
  const shown = useMemo(
    () => ({ camera, parts, asset, printed, host }),
    [camera, parts, asset, printed, host],
  );
  const ask = useCallback(() => workspace.sharp(SHOT), [workspace]);
  const found = useAnswer(shown, ask);
  if (!found || found.near === null) return null;
  const { near, far, doubts } = found;
  return (
    <>
      <Typography
        variant="caption"
        color="textSecondary"
        data-testid="depth-of-field"
        sx={{ display: "block" }}
      >
        {far === null
          ? `Sharp from ${length(near)} on`
          : `Sharp from ${length(near)} to ${length(far)}, ${length(far - near)} deep`}
      </Typography>
      <Doubts label="Is the focus meant?" mend="Focus on the asset" doubts={doubts} />
    </>
  );
}
