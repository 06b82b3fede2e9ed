/** What light is chosen from: environments, rigs, and the conditions that the project keeps. */
import Box from "@mui/material/Box";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import { useSlice, useWorkspace } from "../store/context";
import { ConditionsShelf } from "./ConditionsShelf";
import { EnvironmentShelf } from "./EnvironmentShelf";
import { RigShelf } from "./RigShelf";

const [RIGS, CONDITIONS] = ["light.shelf.rigs", "light.shelf.conditions"];

export function LightShelf() {
  const workspace = useWorkspace();
  const shown = useSlice((s) => (s.unfolded[CONDITIONS] ? "conditions" : s.unfolded[RIGS] ? "rigs" : "maps"));
  const show = (next: string) => {
    workspace.unfold(RIGS, next === "rigs");
    workspace.unfold(CONDITIONS, next === "conditions");
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
          my: 1.25,
          ml: 2,
          "& .MuiToggleButton-root": { py: 0.35, px: 1, fontSize: 11.5 },
        }}
      >
        <ToggleButton value="maps">Environments</ToggleButton>
        <ToggleButton value="rigs">Rigs</ToggleButton>
        <ToggleButton value="conditions">Conditions</ToggleButton>
      </ToggleButtonGroup>
      <Box sx={{ flex: 1, minWidth: 0 }}>
        {shown === "maps" && <EnvironmentShelf />}
        {shown === "rigs" && <RigShelf />}
        {shown === "conditions" && <ConditionsShelf />}
      </Box>
    </Box>
  );
}
