/** "×" and the picture of the map that a field multiplies, or "× map" until there is one; nothing where there is none. */
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { useEffect } from "react";
import type { FileRef, Scene } from "../api/types";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { isSame } from "../store/patch";
import { type MapName, mapKey } from "../store/session";
import { described, type Field, type Place, valueAt } from "./fields";
import type { BoundProps } from "./useField";

interface TextureUse {
  texture: number;
  file: FileRef | null;
}

/** The map of a field: null for none, "mixed" where several objects have different ones. */
function mapOf(scene: Scene, places: readonly Place[], field: Field): MapName | "mixed" | null {
  const [first, ...others] = places.map((place) => valueAt(scene, [...place, field.map!]));
  if (!others.every((other) => isSame(first, other))) return "mixed";
  const asset = scene.asset?.file.sha256;
  if (!first || !asset || (first as TextureUse).file) return null;
  return { asset, texture: (first as TextureUse).texture, channel: field.channel ?? null };
}

/** The map of a field, and its picture once that is there. */
export function useMap({ model, places, name }: BoundProps) {
  const workspace = useWorkspace();
  const field = described(model, name);
  const named = useScene((s) => JSON.stringify(field.map ? mapOf(s, places, field) : null));
  const isReady = useSlice((s) => s.opened !== null);
  const map = JSON.parse(named) as ReturnType<typeof mapOf>;
  const key = map !== null && map !== "mixed" ? mapKey(map) : "";
  const picture = useSlice((s) => s.maps[key]);
  useEffect(() => {
    const wanted = JSON.parse(named) as ReturnType<typeof mapOf>;
    if (isReady && wanted !== null && wanted !== "mixed") workspace.wantMap(wanted);
  }, [workspace, named, isReady]);
  return { map, picture };
}

export function MapMark(props: BoundProps) {
  return described(props.model, props.name).map ? <Mark {...props} /> : null;
}

function Mark(props: BoundProps) {
  const { label } = described(props.model, props.name);
  const { map, picture } = useMap(props);
  if (map === null) return null;
  return (
    <Box
      sx={{ display: "flex", flexDirection: "row-reverse", alignItems: "center", gap: 0.5, flexShrink: 0 }}
      data-testid={`map ${label}`}
    >
      {picture && (
        <Box
          component="img"
          src={picture}
          alt={`Map of ${label}`}
          sx={{ width: 20, height: 20, objectFit: "cover", borderRadius: 0.5, border: "1px solid #555" }}
        />
      )}
      <Typography variant="caption" color="textSecondary" noWrap>
        {map === "mixed" ? "× maps" : picture ? "×" : "× map"}
      </Typography>
    </Box>
  );
}
