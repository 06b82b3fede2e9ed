/** The controls of the chosen light, and of those of its kind that are edited with it. */
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { useMemo } from "react";
import { useShallow } from "zustand/react/shallow";
import { FieldGroups } from "../controls/FieldGroup";
import { useScene, useSlice } from "../store/context";
import { modelOf, nameOf } from "./lights";
import { ProfileField } from "./ProfileField";
import { ShapingFields } from "./ShapingFields";

const OPEN = ["amount"];

export function LightControls({ id }: { id: string }) {
  const light = useScene((s) => s.lights[id]!);
  const besides = useSlice((s) => s.besides);
  const alike = useScene(useShallow((s) => besides.filter((key) => s.lights[key]?.kind === light.kind)));
  const places = useMemo(() => [id, ...alike].map((key) => ["lights", key]), [id, alike]);
  const others = besides.length + 1 - places.length;
  const more = {
    shape: places.length === 1 && (
      <>
        {"profile" in light && <ProfileField id={id} light={light} />}
        <ShapingFields id={id} light={light} />
      </>
    ),
  };
  return (
    <Box sx={{ mt: 0.5 }}>
      {besides.length > 0 && (
        <Typography variant="caption" color="textSecondary" data-testid="edited-together">
          {`${places.length} lights of the kind ${nameOf(light.kind)} are edited together`}
          {others > 0 && `; ${others} of another kind ${others === 1 ? "is" : "are"} not`}
        </Typography>
      )}
      <FieldGroups model={modelOf(light.kind)} places={places} open={OPEN} more={more} />
    </Box>
  );
}
