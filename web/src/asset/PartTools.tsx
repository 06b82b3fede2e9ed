/** What the selected parts are, where they stand, and what can be done with them. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useMemo } from "react";
import type { Part } from "../api/types";
import { FieldGroups } from "../controls/FieldGroup";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { topsOf } from "../store/groups";
import { Arrange } from "./Arrange";
import { Density } from "./Density";
import { Strewn } from "./Strewn";
import { type FormKind, formModel } from "./set";

/** Equal for parts of one shape. */
const shapeOf = (part: Part) =>
  JSON.stringify(part.form ?? (part.pieces.length > 0 ? part.pieces : part.mesh));

export function PartTools() {
  const workspace = useWorkspace();
  const selection = useSlice((s) => s.selection);
  const parts = useScene((s) => s.parts);
  const groups = useScene((s) => s.part_groups);
  const chosen = useMemo(() => selection.filter((key) => key in parts), [selection, parts]);
  const stamp = chosen.join(" ");
  // The same array while the selection is the same.
  const places = useMemo(() => stamp.split(" ").map((key) => ["parts", key]), [stamp]);
  const first = parts[chosen[0] ?? ""];
  if (!first) return null;
  const tops = topsOf(parts, groups, chosen);
  const whole = tops.length === 1 && tops[0]!.section === "part_groups" ? tops[0]!.key : null;
  const isMade = chosen.some((key) => parts[key]!.form);
  const alike = (what: (part: Part) => unknown) => {
    const wanted = new Set(chosen.map((key) => what(parts[key]!)));
    workspace.select(Object.keys(parts).filter((key) => wanted.has(what(parts[key]!))));
  };
  return (
    <Box component="section" aria-label="Selected parts">
      <Box sx={{ display: "flex", alignItems: "center", gap: 0.5, minHeight: 34 }}>
        <Typography noWrap variant="body2" sx={{ fontWeight: 600, flex: 1 }}>
          {whole && `${groups[whole]!.name} · `}
          {chosen.length === 1 ? first.name : `${chosen.length} parts`}
        </Typography>
        <Button
          size="small"
          onClick={() => alike((part) => part.material)}
          title="Select all parts of the same material"
        >
          Same material
        </Button>
        <Button size="small" onClick={() => alike(shapeOf)} title="Select all parts of the same shape">
          Same shape
        </Button>
      </Box>
      {chosen.length === 1 && first.form && <Measures id={chosen[0]!} kind={first.form.kind} />}
      {chosen.length === 1 && first.strewn && <Strewn id={chosen[0]!} />}
      {whole && <GroupPlace id={whole} />}
      {chosen.length === 1 && !whole && (
        <FieldGroups key={stamp} model="Part" places={places} open={["place"]} only={["place"]} />
      )}
      <Arrange parts={chosen} group={whole} />
      <FieldGroups
        key={`${stamp} more`}
        model="Part"
        places={places}
        open={[]}
        only={isMade ? ["edges", "seen"] : ["density", "edges", "seen"]}
        more={{ density: <Density parts={chosen} /> }}
      />
    </Box>
  );
}

function GroupPlace({ id }: { id: string }) {
  const places = useMemo(() => [["part_groups", id]], [id]);
  return <FieldGroups model="PartGroup" places={places} open={["place"]} />;
}

/** Of a body that is made here. */
function Measures({ id, kind }: { id: string; kind: FormKind }) {
  const places = useMemo(() => [["parts", id, "form"]], [id]);
  return <FieldGroups model={formModel(kind)} places={places} open={["form"]} />;
}
