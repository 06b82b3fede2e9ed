/** All light at once: turned about the asset, dimmed and raised. */
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { Minus, Plus, RotateCcw, RotateCw } from "lucide-react";
import { useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { Small } from "./CardList";

const DEGREES = 15;
const STOPS = 1 / 3;

export function AllLight() {
  const workspace = useWorkspace();
  const turn = (degrees: number) => void workspace.commitBy("turn_lights", SHOT, { degrees });
  const dim = (stops: number) => void workspace.commitBy("turn_lights", SHOT, { stops });
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 0.5, mb: 0.5 }}>
      <Typography variant="body2" color="textSecondary" sx={{ flex: 1 }}>
        All light
      </Typography>
      <Small
        title={`Turn by ${DEGREES}° to the left`}
        name="Turn all light to the left"
        onClick={() => turn(DEGREES)}
      >
        <RotateCcw size={15} />
      </Small>
      <Small
        title={`Turn by ${DEGREES}° to the right`}
        name="Turn all light to the right"
        onClick={() => turn(-DEGREES)}
      >
        <RotateCw size={15} />
      </Small>
      <Small title="A third of a stop less" name="Dim all light" onClick={() => dim(-STOPS)}>
        <Minus size={15} />
      </Small>
      <Small title="A third of a stop more" name="Raise all light" onClick={() => dim(STOPS)}>
        <Plus size={15} />
      </Small>
    </Box>
  );
}
