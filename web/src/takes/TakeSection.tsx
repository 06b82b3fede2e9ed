/** Takes in the drawer: keeping the picture as it is, and the way to the contact sheet. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { Camera, Film, LayoutGrid } from "lucide-react";
import { Section } from "../controls/Section";
import { useWorkspace } from "../store/context";
import { keepTake, useTakesHere } from "./keeping";

export function TakeSection() {
  const workspace = useWorkspace();
  const takes = useTakesHere();
  return (
    <Section title="Takes">
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.75 }}>
        <Button
          size="small"
          variant="outlined"
          startIcon={<Camera size={15} />}
          onClick={() => void keepTake(workspace)}
          sx={{ flex: 1 }}
        >
          Keep a take
        </Button>
        <Button
          size="small"
          variant="outlined"
          startIcon={<LayoutGrid size={15} />}
          onClick={() => workspace.set({ takes: "sheet" })}
          sx={{ flex: 1 }}
        >
          Sheet ({takes.length})
        </Button>
        <Button
          fullWidth
          size="small"
          startIcon={<Film size={15} />}
          title="Its samples are kept as well: restored, it goes on from there, with another look or other light if wanted"
          onClick={() => void keepTake(workspace, "kept", true)}
        >
          Keep a take with its film
        </Button>
      </Box>
    </Section>
  );
}
