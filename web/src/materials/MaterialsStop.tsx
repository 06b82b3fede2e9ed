/** Materials: the surface of the selected parts. */
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { useCallback, useMemo } from "react";
import { useShallow } from "zustand/react/shallow";
import { PartsList } from "../asset/PartsList";
import { FieldGroups } from "../controls/FieldGroup";
import { takesInput } from "../controls/inputs";
import { useScene, useSlice } from "../store/context";
import type { WorkspaceState } from "../store/workspace";
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
  return <MaterialControls key={keys.join(" ")} materials={keys} />;
}

const listed = (names: string[]) =>
  names.slice(0, NAMED).join(", ") + (names.length > NAMED ? ` and ${names.length - NAMED} more` : "");

/** The controls of one material, or of several at once. */
function MaterialControls({ materials }: { materials: string[] }) {
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
        on {users}
      </Typography>
      <Possible materials={materials} />
      {materials.length === 1 && <Layers key={materials[0]} material={materials[0]!} />}
      <FieldGroups model="Material" places={places} open={["base", "specular"]} under={under} />
    </>
  );
}
