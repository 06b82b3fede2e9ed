/** Materials: the surface of the selected parts. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { ChevronLeft } from "lucide-react";
import { useCallback, useMemo, useState } from "react";
import { useShallow } from "zustand/react/shallow";
import { PartsList } from "../asset/PartsList";
import { FieldGroups } from "../controls/FieldGroup";
import { takesInput } from "../controls/inputs";
import { useScene, useSlice } from "../store/context";
import type { WorkspaceState } from "../store/workspace";
import { Decals } from "./Decals";
import { InputEditor } from "./InputEditor";
import { KeepSwatch } from "./KeepSwatch";
import { Layers } from "./Layers";
import { Possible } from "./Possible";

const NAMED = 3;

export function MaterialsStop() {
  const keys = useSlice(
    useShallow((s: WorkspaceState) => {
      const worn = s.selection.map((part) => s.scene.parts[part]?.material);
      return [...new Set(worn.filter((key) => key !== undefined))];
    }),
  );
  if (keys.length === 0) {
    return (
      <>
        <Typography color="textSecondary" variant="body2" sx={{ mb: 1.5 }}>
          Click a part in the picture, or choose one here.
        </Typography>
        <PartsList maxHeight="max(200px, calc(100vh - 170px))" />
      </>
    );
  }
  return <Worn key={keys.join(" ")} materials={keys} />;
}

/** What is worn, or the material of one of its layers, until somebody goes back. */
function Worn({ materials }: { materials: string[] }) {
  const [over, setOver] = useState<string | null>(null);
  const isThere = useScene((s) =>
    materials.some((key) => s.materials[key]?.layers.some((layer) => layer.material === over)),
  );
  const inside = useMemo(() => (over === null ? [] : [over]), [over]);
  const name = useScene((s) => s.materials[materials[0]!]?.name ?? "");
  if (over === null || !isThere) return <MaterialControls materials={materials} onInside={setOver} />;
  return (
    <>
      <Button
        size="small"
        startIcon={<ChevronLeft size={14} />}
        onClick={() => setOver(null)}
        sx={{ ml: -1 }}
      >
        Back to {name}
      </Button>
      <MaterialControls materials={inside} />
    </>
  );
}

const listed = (names: string[]) =>
  names.slice(0, NAMED).join(", ") + (names.length > NAMED ? ` and ${names.length - NAMED} more` : "");

interface Controls {
  materials: string[];
  /** Goes to the material of a layer; without it none is laid over the material here. */
  onInside?: (material: string) => void;
}

/** The controls of one material, or of several at once. */
function MaterialControls({ materials, onInside }: Controls) {
  const names = useScene((s) => listed(materials.map((key) => s.materials[key]?.name ?? "")));
  const parts = useScene((s) => s.parts);
  const users = useMemo(() => {
    const wearing = Object.values(parts).filter((part) => materials.includes(part.material));
    return listed(wearing.map((part) => part.name));
  }, [parts, materials]);
  const places = useMemo(() => materials.map((key) => ["materials", key]), [materials]);
  const under = useCallback(
    (name: string) => takesInput(name) && <InputEditor materials={materials} name={name} />,
    [materials],
  );
  return (
    <>
      <Box sx={{ display: "flex", alignItems: "center" }}>
        <Typography sx={{ flex: 1, minWidth: 0, fontWeight: 600 }}>{names}</Typography>
        {materials.length === 1 && <KeepSwatch material={materials[0]!} name={names} />}
      </Box>
      <Typography variant="caption" color="textSecondary" component="p" sx={{ mb: 1 }}>
        {users ? `on ${users}` : "lies over others"}
      </Typography>
      <Possible materials={materials} />
      {materials.length === 1 && onInside && <Layers material={materials[0]!} onInside={onInside} />}
      {onInside && <Decals />}
      <FieldGroups model="Material" places={places} open={["base", "specular"]} under={under} />
    </>
  );
}
