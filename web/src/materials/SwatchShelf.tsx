/** The materials of the project: dragged onto a part, or with a part selected by a click, one dresses it. */
import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import Typography from "@mui/material/Typography";
import type { Color } from "../api/types";
import { toHex } from "../controls/color";
import { dragOf } from "../store/carried";
import { useSlice, useWorkspace } from "../store/context";
import { pointer, replace } from "../store/patch";

export function SwatchShelf() {
  const workspace = useWorkspace();
  const materials = useSlice((s) => s.scene.materials);
  const swatches = useSlice((s) => s.swatches);
  const parts = useSlice((s) => s.scene.parts);
  const selection = useSlice((s) => s.selection);
  const selected = selection.filter((part) => part in parts);
  const worn = selected.length > 0 ? parts[selected[0]!]!.material : undefined;
  const wearers = selected.map((part) => parts[part]!.name).join(", ");

  const use = (key: string) => {
    if (selected.length > 0) {
      const patch = selected.map((part) => replace(pointer("parts", part, "material"), key));
      workspace.commit(patch, `${materials[key]!.name} on ${wearers}`);
      return;
    }
    const wearer = Object.entries(parts).find(([, part]) => part.material === key);
    if (wearer) workspace.select([wearer[0]]);
  };

  return (
    <Box sx={{ display: "flex", gap: 1 }}>
      {Object.entries(materials).map(([key, material]) => (
        <ButtonBase
          key={key}
          onClick={() => use(key)}
          aria-label={
            selected.length > 0 ? `Dress ${wearers} in ${material.name}` : `Material ${material.name}`
          }
          aria-pressed={key === worn}
          {...dragOf(
            {
              onPart: true,
              patch: (_, onto) => onto.map((part) => replace(pointer("parts", part, "material"), key)),
              label: (where) => `${material.name} on ${where}`,
            },
            material.name,
          )}
          sx={{
            width: 92,
            flexDirection: "column",
            borderRadius: 1,
            p: 0.5,
            ...(key === worn && { boxShadow: (t) => `0 0 0 2px ${t.palette.primary.main}` }),
          }}
        >
          <Box
            data-testid={`swatch-${key}`}
            sx={{
              width: 84,
              height: 48,
              borderRadius: 1,
              bgcolor: toHex(material.base_color as Color),
              background: swatches[key] && `center / cover url("${swatches[key]}")`,
            }}
          />
          <Typography variant="caption" noWrap sx={{ maxWidth: 88 }}>
            {material.name}
          </Typography>
        </ButtonBase>
      ))}
    </Box>
  );
}
