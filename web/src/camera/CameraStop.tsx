/** Camera: lens, focus, framing, the moment if anything moves, exposure. */
import Button from "@mui/material/Button";
import { Crosshair, Scan } from "lucide-react";
import { action } from "../actions/registry";
import { BoundChoice, BoundQuantity, Section } from "../controls/bound";
import { useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";

export function CameraStop() {
  const workspace = useWorkspace();
  const tool = useSlice((s) => s.tool);
  const isSharp = useSlice((s) => s.scene.camera.f_number === null);
  const isRound = useSlice((s) => s.scene.camera.blades === null);
  const moves = useSlice((s) => s.opened?.moves ?? false);
  return (
    <>
      <Section title="Lens">
        <BoundQuantity model="Camera" at={["camera"]} name="focal_length" />
        <BoundQuantity model="Camera" at={["camera"]} name="f_number" />
        <Button
          fullWidth
          variant={tool === "focus" ? "contained" : "outlined"}
          size="small"
          startIcon={<Crosshair size={15} />}
          aria-pressed={tool === "focus"}
          onClick={() => action("focus").run(workspace)}
          sx={{ mb: 1 }}
        >
          Focus on a surface
        </Button>
        <BoundQuantity model="Camera" at={["camera"]} name="focus_distance" />
        {!isSharp && <BoundQuantity model="Camera" at={["camera"]} name="blades" />}
        {!isSharp && !isRound && (
          <>
            <BoundQuantity model="Camera" at={["camera"]} name="blade_rotation" />
            <BoundQuantity model="Camera" at={["camera"]} name="blade_roundness" />
          </>
        )}
        <BoundQuantity model="Camera" at={["camera"]} name="shift_x" />
        <BoundQuantity model="Camera" at={["camera"]} name="shift_y" />
        <BoundQuantity model="Camera" at={["camera"]} name="distortion" />
        <Button
          fullWidth
          variant="outlined"
          size="small"
          startIcon={<Scan size={15} />}
          onClick={() => workspace.frameParts(SHOT, null)}
        >
          Fit to asset
        </Button>
      </Section>
      {moves && (
        <Section title="Shutter">
          <BoundQuantity model="Shutter" at={["shutter"]} name="time" />
          <BoundQuantity model="Shutter" at={["shutter"]} name="opens" />
          <BoundQuantity model="Shutter" at={["shutter"]} name="closes" />
        </Section>
      )}
      <Section title="Exposure">
        <BoundQuantity model="Look" at={["look"]} name="exposure" />
        <BoundChoice model="Look" at={["look"]} name="view" options={{ filmic: "Filmic", plain: "Plain" }} />
      </Section>
    </>
  );
}
