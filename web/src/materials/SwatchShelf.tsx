/** The materials of the project: dragged onto a part, or with a part selected by a click, one dresses it. */
import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import Typography from "@mui/material/Typography";
import { memo, useMemo } from "react";
import type { Color, Scene } from "../api/types";
import { toHex } from "../controls/color";
import { Strip } from "../controls/Strip";
import { dragOf } from "../store/carried";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { pointer, replace } from "../store/patch";
import type { Workspace } from "../store/workspace";

const PITCH = 100;

export function SwatchShelf() {
  const materials = useScene((s) => s.materials);
  const keys = useMemo(() => Object.keys(materials), [materials]);
  const parts = useScene((s) => s.parts);
  const selection = useSlice((s) => s.selection);
  const [wearers, worn] = useMemo(() => {
    const [first] = selectedParts(selection, parts);
    return [wearersOf(selection, parts), first === undefined ? undefined : parts[first]!.material];
  }, [parts, selection]);
  return (
    <Strip
      label="Materials"
      count={keys.length}
      pitch={PITCH}
      keyOf={(index) => keys[index]!}
      render={(index, item) => (
        <Swatch id={keys[index]!} item={item} wearers={wearers} isWorn={keys[index] === worn} />
      )}
    />
  );
}

type Parts = Scene["parts"];
export const selectedParts = (selection: string[], parts: Parts) => selection.filter((part) => part in parts);

/** "Cap", "Cap and Base", "Cap and 12 more": whom a material dresses. */
export function wearersOf(selection: string[], parts: Parts): string {
  const [first, second, ...more] = selectedParts(selection, parts).map((part) => parts[part]!.name);
  if (first === undefined) return "";
  if (second === undefined) return first;
  return more.length === 0 ? `${first} and ${second}` : `${first} and ${more.length + 1} more`;
}

/** Dress the selection in a material; with nothing selected, select a part that wears it. */
function use(workspace: Workspace, key: string): void {
  const { scene, selection } = workspace.getState();
  const { materials, parts } = scene;
  const selected = selectedParts(selection, parts);
  if (selected.length > 0) {
    const patch = selected.map((part) => replace(pointer("parts", part, "material"), key));
    workspace.commit(patch, `${materials[key]!.name} on ${wearersOf(selection, parts)}`);
    return;
  }
  const wearer = Object.entries(parts).find(([, part]) => part.material === key);
  if (wearer) workspace.select([wearer[0]]);
}

interface SwatchProps {
  id: string;
  item: object & { tabIndex: number };
  /** Whom a click would dress; empty for nobody. */
  wearers: string;
  isWorn: boolean;
}

const Swatch = memo(
  function Swatch({ id, item, wearers, isWorn }: SwatchProps) {
    const workspace = useWorkspace();
    const name = useScene((s) => s.materials[id]?.name ?? "");
    const picture = useSlice((s) => s.swatches[id]);
    // Until its picture is there; a map is of no one colour.
    const color = useScene((s) => {
      const material = s.materials[id];
      return material && !material.base_color_texture ? toHex(material.base_color as Color) : "#3a3a3a";
    });
    const dragged = {
      onPart: true,
      patch: (_: unknown, onto: string[]) =>
        onto.map((part) => replace(pointer("parts", part, "material"), id)),
      label: (where: string) => `${name} on ${where}`,
    };
    return (
      <ButtonBase
        {...item}
        onClick={() => use(workspace, id)}
        aria-label={wearers ? `Dress ${wearers} in ${name}` : `Material ${name}`}
        aria-pressed={isWorn}
        {...dragOf(dragged, name)}
        sx={{
          width: 92,
          flexDirection: "column",
          borderRadius: 1,
          p: 0.5,
          ...(isWorn && { boxShadow: (t) => `0 0 0 2px ${t.palette.primary.main}` }),
        }}
      >
        <Box
          data-testid={`swatch-${id}`}
          sx={{ width: 84, height: 48, borderRadius: 1 }}
          style={{ background: picture ? `center / cover url("${picture}")` : color }}
        />
        <Typography variant="caption" noWrap sx={{ maxWidth: 88 }}>
          {name}
        </Typography>
      </ButtonBase>
    );
  },
  (before, after) =>
    before.id === after.id &&
    before.item.tabIndex === after.item.tabIndex &&
    before.wearers === after.wearers &&
    before.isWorn === after.isWorn,
);
