/** Camera: lens, focus, framing, the moment if anything moves, exposure. */
import Button from "@mui/material/Button";
import Stack from "@mui/material/Stack";
import { Crosshair, Scan } from "lucide-react";
import { action } from "../actions/registry";
import { FileCameras } from "../asset/FromFile";
import { FieldGroups } from "../controls/FieldGroup";
import { useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { Sharpness } from "./Sharpness";

const [CAMERA, SHUTTER, LOOK] = [[["camera"]], [["shutter"]], [["look"]]];

const MORE = { lens: <Sharpness /> };

export function CameraStop() {
  const workspace = useWorkspace();
  const tool = useSlice((s) => s.tool);
  const moves = useSlice((s) => s.opened?.moves ?? false);
  return (
    <>
      <Stack spacing={1} sx={{ mb: 1.5 }}>
        <Button
          fullWidth
          variant={tool === "focus" ? "contained" : "outlined"}
          size="small"
          startIcon={<Crosshair size={15} />}
          aria-pressed={tool === "focus"}
          onClick={() => action("focus").run(workspace)}
        >
          Focus on a surface
        </Button>
        <Button
          fullWidth
          variant="outlined"
          size="small"
          startIcon={<Scan size={15} />}
          onClick={() => workspace.frameParts(SHOT, null)}
        >
          Fit to asset
        </Button>
        <FileCameras />
      </Stack>
      <FieldGroups model="Camera" places={CAMERA!} open={["lens"]} more={MORE} />
      {moves && <FieldGroups model="Shutter" places={SHUTTER!} open={["shutter"]} />}
      <FieldGroups model="Look" places={LOOK!} open={["exposure"]} />
    </>
  );
}
