/** Exposure by EV or by the shutter; and by what is seen, or by what the loupe holds: it stays as it is found. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Tooltip from "@mui/material/Tooltip";
import { useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { ShutterExposure } from "./ShutterExposure";

const WAYS = [
  ["grey", "Middle as grey", "The middle of what the loupe holds, or of the picture, becomes grey of 18 %"],
  [
    "highlights",
    "Hold the lights",
    "All but the brightest of what the loupe holds, or of the picture, is within white",
  ],
] as const;

export function ExposureTools() {
  const workspace = useWorkspace();
  const meter = async (how: string) => {
    const key = await workspace.commitBy("meter_exposure", SHOT, { how });
    if (key === null)
      workspace.notify({ severity: "info", text: "There is no light to meter yet; try again." });
  };
  return (
    <>
      <ShutterExposure />
      <Box sx={{ display: "flex", gap: 1, mt: 0.5 }}>
        {WAYS.map(([how, word, title]) => (
          <Tooltip key={how} describeChild title={title}>
            <Button fullWidth size="small" variant="outlined" onClick={() => void meter(how)}>
              {word}
            </Button>
          </Tooltip>
        ))}
      </Box>
    </>
  );
}
