/** What light is chosen from: environments, rigs, conditions that the project keeps, profiles. */
import Box from "@mui/material/Box";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import { useSlice, useWorkspace } from "../store/context";
import { ConditionsShelf } from "./ConditionsShelf";
import { EnvironmentShelf } from "./EnvironmentShelf";
import { ProfileShelf } from "./ProfileShelf";
import { RigShelf } from "./RigShelf";

const PLACES = ["rigs", "conditions", "profiles"] as const;
const keyOf = (place: string) => `light.shelf.${place}`;

export function LightShelf() {
  const workspace = useWorkspace();
  const shown = useSlice((s) => PLACES.find((place) => s.unfolded[keyOf(place)]) ?? "maps");
  const show = (next: string) => {
    for (const place of PLACES) workspace.unfold(keyOf(place), next === place);
  };
  return (
    <Box sx={{ height: "100%", display: "flex" }}>
      <ToggleButtonGroup
        exclusive
        orientation="vertical"
        size="small"
        value={shown}
        aria-label="What the shelf shows"
        onChange={(_, next: string | null) => next && show(next)}
        sx={{
          flexShrink: 0,
          my: 0.75,
          ml: 2,
          "& .MuiToggleButton-root": { py: 0.2, px: 1, fontSize: 11 },
        }}
      >
        <ToggleButton value="maps">Environments</ToggleButton>
        <ToggleButton value="rigs">Rigs</ToggleButton>
        <ToggleButton value="conditions">Conditions</ToggleButton>
        <ToggleButton value="profiles">Profiles</ToggleButton>
      </ToggleButtonGroup>
      <Box sx={{ flex: 1, minWidth: 0 }}>
        {shown === "maps" && <EnvironmentShelf />}
        {shown === "rigs" && <RigShelf />}
        {shown === "conditions" && <ConditionsShelf />}
        {shown === "profiles" && <ProfileShelf />}
      </Box>
    </Box>
  );
}
