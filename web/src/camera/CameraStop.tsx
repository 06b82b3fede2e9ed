/** Camera: lens, focus, framing, the moment if anything moves, exposure. */
import Button from "@mui/material/Button";
import Stack from "@mui/material/Stack";
import { Crosshair, Scan } from "lucide-react";
import { action } from "../actions/registry";
import { FileCameras } from "../asset/FromFile";
import { FieldGroups } from "../controls/FieldGroup";
import { useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { ExposureTools } from "./ExposureTools";
import { Followed, FollowSwitch } from "./FocusFollow";
import { FrameShape } from "./FrameShape";
import { LayoutField } from "./Layout";
import { MatchView } from "./MatchView";
import { Sharpness } from "./Sharpness";
import { Standing } from "./Standing";

const [CAMERA, SHUTTER, LOOK] = [[["camera"]], [["shutter"]], [["look"]]];

const EXPOSURE = { exposure: <ExposureTools /> };
const MORE = {
  lens: (
    <>
      <Followed />
      <Sharpness />
    </>
  ),
  back: <Standing />,
};

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
        <FollowSwitch />
        <Button
          fullWidth
          variant="outlined"
          size="small"
          startIcon={<Scan size={15} />}
          onClick={() => workspace.frameParts(SHOT, null)}
        >
          Fit to asset
        </Button>
        <FrameShape />
        <MatchView />
        <LayoutField />
        <FileCameras />
      </Stack>
      <FieldGroups model="Camera" places={CAMERA!} open={["lens"]} more={MORE} />
      {moves && <FieldGroups model="Shutter" places={SHUTTER!} open={["shutter"]} />}
      <FieldGroups model="Look" places={LOOK!} open={["exposure"]} only={["exposure"]} more={EXPOSURE} />
    </>
  );
}
