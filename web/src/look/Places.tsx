/** Places of the picture, and parts, that have a grade of their own. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import Switch from "@mui/material/Switch";
import Typography from "@mui/material/Typography";
import { Trash2 } from "lucide-react";
import { mostLocals } from "../api/fields.gen";
import type { Look } from "../api/types";
import { FieldGroups } from "../controls/FieldGroup";
import { Fold } from "../controls/Fold";
import type { Place } from "../controls/fields";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { pointer, replace } from "../store/patch";

type Local = Look["locals"][string];
const OPEN = ["place", "mask"];
const HIDDEN = { enabled: <span hidden /> };
const MASKS = { gradient: "GradientMask", ellipse: "EllipseMask", parts: null } as const;

export function Places() {
  const workspace = useWorkspace();
  const places = useScene((s) => s.look.locals);
  const selected = useSlice((s) => s.selection);
  const keys = Object.keys(places);
  const add = async (kind: Local["mask"]["kind"]) => {
    const key = await workspace.commitBy("make_local", SHOT, {
      kind,
      parts: kind === "parts" ? selected : [],
    });
    if (key) workspace.unfold(`place.${key}`, true);
  };
  return (
    <Box>
      {keys.map((key) => (
        <OnePlace key={key} id={key} place={places[key]!} />
      ))}
      <Box
        sx={{
          display: "flex",
          gap: 0.5,
          flexWrap: "wrap",
          borderTop: "1px solid",
          borderColor: "divider",
          mx: -2,
          px: 2,
          pt: 0.5,
        }}
      >
        <Typography variant="caption" color="textSecondary" sx={{ lineHeight: "28px", mr: 0.5 }}>
          Only in
        </Typography>
        <Button size="small" disabled={keys.length >= mostLocals} onClick={() => void add("gradient")}>
          gradient
        </Button>
        <Button size="small" disabled={keys.length >= mostLocals} onClick={() => void add("ellipse")}>
          ellipse
        </Button>
        <Button
          size="small"
          disabled={keys.length >= mostLocals || selected.length === 0}
          title={selected.length === 0 ? "Select parts first" : undefined}
          onClick={() => void add("parts")}
        >
          selection
        </Button>
      </Box>
    </Box>
  );
}

function OnePlace({ id, place }: { id: string; place: Local }) {
  const workspace = useWorkspace();
  const isOpen = useSlice((s) => s.unfolded[`place.${id}`] ?? false);
  const at: Place[] = [["look", "locals", id]];
  const model = MASKS[place.mask.kind];
  return (
    <Fold
      title={place.name}
      summary={`${place.exposure >= 0 ? "+" : ""}${place.exposure} EV`}
      isOpen={isOpen}
      onToggle={() => workspace.unfold(`place.${id}`, !isOpen)}
      aside={
        <>
          <IconButton
            size="small"
            aria-label={`Remove ${place.name}`}
            onClick={() =>
              workspace.commit(
                [{ op: "remove", path: pointer("look", "locals", id) }],
                `Remove ${place.name}`,
              )
            }
          >
            <Trash2 size={13} />
          </IconButton>
          <Switch
            size="small"
            checked={place.enabled}
            slotProps={{ input: { "aria-label": `${place.name} on` } }}
            onChange={() =>
              workspace.commit(
                [replace(pointer("look", "locals", id, "enabled"), !place.enabled)],
                `${place.name} ${place.enabled ? "off" : "on"}`,
              )
            }
          />
        </>
      }
    >
      <FieldGroups model="LocalGrade" places={at} open={OPEN} instead={HIDDEN} />
      {model && <FieldGroups model={model} places={[["look", "locals", id, "mask"]]} open={OPEN} />}
    </Fold>
  );
}
