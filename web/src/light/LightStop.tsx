/** Light: environment or sky, what the camera sees behind the asset, the ground, the air. */
import Typography from "@mui/material/Typography";
import { BoundChoice, BoundColor, BoundQuantity, BoundSwitch, Section } from "../controls/bound";
import { useSlice } from "../store/context";
import { LightList } from "./LightList";

export function LightStop() {
  const map = useSlice((s) => s.scene.environment.map);
  const kind = useSlice((s) => s.scene.backdrop.kind);
  const ground = useSlice((s) => s.scene.ground.enabled);
  const reflection = useSlice((s) => s.scene.ground.reflection);
  const sky = useSlice((s) => s.scene.sky.enabled);
  const haze = useSlice((s) => s.scene.haze.enabled);
  return (
    <>
      <Section title="Environment">
        <Typography variant="body2" noWrap sx={{ mb: 1 }}>
          {map?.name ?? "Even white light"}
        </Typography>
        <BoundQuantity model="Environment" at={["environment"]} name="rotation" />
        <BoundQuantity model="Environment" at={["environment"]} name="intensity" />
      </Section>
      <LightList />
      <Section title="Sun and sky">
        <BoundSwitch model="Sky" at={["sky"]} name="enabled" />
        {sky && (
          <>
            <BoundQuantity model="Sky" at={["sky"]} name="azimuth" />
            <BoundQuantity model="Sky" at={["sky"]} name="elevation" />
            <BoundQuantity model="Sky" at={["sky"]} name="turbidity" />
            <BoundSwitch model="Sky" at={["sky"]} name="sun" />
          </>
        )}
      </Section>
      <Section title="Backdrop">
        <BoundChoice
          model="Backdrop"
          at={["backdrop"]}
          name="kind"
          options={{ environment: "Environment", color: "Plain colour" }}
        />
        {kind === "color" && <BoundColor model="Backdrop" at={["backdrop"]} name="color" />}
      </Section>
      <Section title="Ground">
        <BoundSwitch model="Ground" at={["ground"]} name="enabled" />
        {ground && (
          <>
            <BoundColor model="Ground" at={["ground"]} name="reflectance" />
            <BoundQuantity model="Ground" at={["ground"]} name="height" />
            <BoundQuantity model="Ground" at={["ground"]} name="reflection" />
            {reflection > 0 && <BoundQuantity model="Ground" at={["ground"]} name="reflection_roughness" />}
          </>
        )}
      </Section>
      <Section title="Haze">
        <BoundSwitch model="Haze" at={["haze"]} name="enabled" />
        {haze && (
          <>
            <BoundQuantity model="Haze" at={["haze"]} name="visibility" />
            <BoundColor model="Haze" at={["haze"]} name="color" />
            <BoundQuantity model="Haze" at={["haze"]} name="anisotropy" />
          </>
        )}
      </Section>
    </>
  );
}
