/** Materials of the library: dragged onto a part, or with parts selected by a click, one dresses them. */
import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import IconButton from "@mui/material/IconButton";
import Typography from "@mui/material/Typography";
import { Star, Trash2 } from "lucide-react";
import { api, swatchUrl } from "../api/client";
import { changed } from "../api/queries";
import type { Color, SwatchEntry } from "../api/types";
import { toHex } from "../controls/color";
import { Strip } from "../controls/Strip";
import { dragOf } from "../store/carried";
import { useSlice, useWorkspace } from "../store/context";
import { selectedParts, wearersOf } from "./SwatchShelf";
import { dressed } from "./swatches";

const PITCH = 100;
/** What stands in a corner of a picture while the pointer is over it. */
const CORNER = { position: "absolute", top: 6, p: 0.3, opacity: 0, bgcolor: "rgba(23,23,23,0.8)" };

export function LibraryShelf({ entries }: { entries: readonly SwatchEntry[] }) {
  if (entries.length === 0)
    return (
      <Typography variant="body2" color="textSecondary" sx={{ p: 2 }}>
        No material of the library is called that.
      </Typography>
    );
  return (
    <Strip
      label="Materials of the library"
      count={entries.length}
      pitch={PITCH}
      keyOf={(index) => entries[index]!.key}
      render={(index, item) => <Card entry={entries[index]!} item={item} />}
    />
  );
}

function Card({ entry, item }: { entry: SwatchEntry; item: object & { tabIndex: number } }) {
  const workspace = useWorkspace();
  const wearers = useSlice((s) => wearersOf(s.selection, s.scene.parts));
  const { name, key, number } = entry;
  const use = () => {
    const { scene, selection } = workspace.getState();
    const parts = selectedParts(selection, scene.parts);
    if (parts.length > 0) workspace.commit(dressed(scene, entry, parts), `${name} on ${wearers}`);
    else workspace.notify({ severity: "info", text: "Select a part, or drag the material onto one." });
  };
  const takeOff = () => {
    if (!confirm(`Take “${name}” off the shelf? Projects that use it keep it.`)) return;
    api
      .takeOffSwatch(key)
      .then(changed.swatches, (error: Error) => workspace.notify({ severity: "error", text: error.message }));
  };
  const like = () =>
    api
      .likeSwatch(key, !entry.is_favourite)
      .then(changed.swatches, (error: Error) => workspace.notify({ severity: "error", text: error.message }));
  const dragged = {
    onPart: true,
    patch: (scene: Parameters<typeof dressed>[0], parts: string[]) => dressed(scene, entry, parts),
    label: (where: string) => `${name} on ${where}`,
  };
  const color = entry.materials[key]!.base_color as Color;
  return (
    <Box sx={{ position: "relative", "&:hover .take-off, &:focus-within .take-off": { opacity: 1 } }}>
      <ButtonBase
        {...item}
        onClick={use}
        title={`${name} · ${entry.family}`}
        aria-label={wearers ? `Dress ${wearers} in ${name}` : `Material ${name} of the library`}
        {...dragOf(dragged, name)}
        sx={{ width: 92, flexDirection: "column", borderRadius: 1, p: 0.5 }}
      >
        <Box
          data-testid={`swatch-${key}`}
          sx={{ width: 84, height: 48, borderRadius: 1 }}
          style={{
            background: entry.has_picture ? `center / cover url("${swatchUrl(entry)}")` : toHex(color),
          }}
        />
        <Typography variant="caption" noWrap sx={{ maxWidth: 88 }}>
          {name}
        </Typography>
      </ButtonBase>
      <IconButton
        size="small"
        {...(!entry.is_favourite && { className: "take-off" })}
        tabIndex={item.tabIndex}
        aria-label={`${name} among the favourites`}
        aria-pressed={entry.is_favourite}
        onClick={like}
        sx={{ ...CORNER, left: 6, ...(entry.is_favourite && { opacity: 1, color: "secondary.main" }) }}
      >
        <Star size={12} fill={entry.is_favourite ? "currentColor" : "none"} />
      </IconButton>
      {number !== null && (
        <IconButton
          size="small"
          className="take-off"
          tabIndex={item.tabIndex}
          aria-label={`Take ${name} off the shelf`}
          onClick={takeOff}
          sx={{ ...CORNER, right: 6 }}
        >
          <Trash2 size={12} />
        </IconButton>
      )}
    </Box>
  );
}
