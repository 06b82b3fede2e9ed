/** What the selected parts are, where they stand, and what can be done with them. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useMemo } from "react";
import { FieldGroups } from "../controls/FieldGroup";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { Arrange } from "./Arrange";

export function PartTools() {
  const workspace = useWorkspace();
  const selection = useSlice((s) => s.selection);
  const parts = useScene((s) => s.parts);
  const chosen = useMemo(() => selection.filter((key) => key in parts), [selection, parts]);
  const stamp = chosen.join(" ");
  // The same array while the selection is the same.
  const places = useMemo(() => stamp.split(" ").map((key) => ["parts", key]), [stamp]);
  const first = parts[chosen[0] ?? ""];
  if (!first) return null;
  const alike = (field: "material" | "mesh") => {
    const wanted = new Set(chosen.map((key) => parts[key]![field]));
    workspace.select(Object.keys(parts).filter((key) => wanted.has(parts[key]![field])));
  };
  return (
    <Box component="section" aria-label="Selected parts">
      <Box sx={{ display: "flex", alignItems: "center", gap: 0.5, minHeight: 34 }}>
        <Typography noWrap variant="body2" sx={{ fontWeight: 600, flex: 1 }}>
          {chosen.length === 1 ? first.name : `${chosen.length} parts`}
        </Typography>
        <Button size="small" onClick={() => alike("material")} title="Select all parts of the same material">
          Same material
        </Button>
        <Button size="small" onClick={() => alike("mesh")} title="Select all parts of the same shape">
          Same shape
        </Button>
      </Box>
      {chosen.length === 1 && <FieldGroups key={stamp} model="Part" places={places} open={["place"]} />}
      <Arrange parts={chosen} />
      {chosen.length > 1 && (
        <FieldGroups key={stamp} model="Part" places={places} open={[]} only={["seen"]} />
      )}
    </Box>
  );
}
