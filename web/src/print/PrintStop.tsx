/** Print: the settings of the next final frame, and putting it into the queue. */
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { Printer } from "lucide-react";
import { BoundChoice, BoundQuantity, BoundSwitch, Section } from "../controls/bound";
import { useSlice, useWorkspace } from "../store/context";
import { queuePrint, usePrintQueue } from "./queue";

export function PrintStop() {
  const workspace = useWorkspace();
  const saved = useSlice((s) => s.saved);
  const filtered = useSlice((s) => s.scene.rendering.caustics === "filtered");
  const { refresh } = usePrintQueue();
  return (
    <>
      <Section title="Final frame">
        <BoundQuantity model="PrintSettings" at={["print"]} name="width" />
        <BoundQuantity model="PrintSettings" at={["print"]} name="height" />
        <BoundQuantity model="PrintSettings" at={["print"]} name="samples" />
        <BoundQuantity model="PrintSettings" at={["print"]} name="noise" />
        <BoundSwitch model="PrintSettings" at={["print"]} name="denoise" />
        <BoundSwitch model="PrintSettings" at={["print"]} name="transparent" />
        <BoundSwitch model="PrintSettings" at={["print"]} name="layers" />
      </Section>
      <Section title="Light paths, of proof and print">
        <BoundChoice
          model="Rendering"
          at={["rendering"]}
          name="caustics"
          options={{ exact: "Exact caustics", filtered: "Filtered" }}
        />
        {filtered && <BoundQuantity model="Rendering" at={["rendering"]} name="caustic_roughness" />}
        <BoundQuantity model="Rendering" at={["rendering"]} name="sample_limit" />
      </Section>
      <Button
        fullWidth
        variant="contained"
        startIcon={<Printer size={16} />}
        disabled={!saved}
        onClick={() => queuePrint(workspace).then(refresh)}
      >
        Print this frame
      </Button>
      <Typography variant="caption" color="textSecondary" component="p" sx={{ mt: 1 }}>
        The proof has the shape of this frame and shows the same picture.
      </Typography>
    </>
  );
}
