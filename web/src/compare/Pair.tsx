/** A pair: the document as it is, and beside it under another edition, in another light or shot; one film each. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { ArrowLeftRight, Columns2, ImageDown } from "lucide-react";
import type { Scene } from "../api/types";
import { Section } from "../controls/Section";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { inOrder } from "../store/order";
import { FREE, type Pane, SHOT } from "../store/panes";
import { captioned } from "./captioned";
import { useStanding } from "./standing";

type Under = NonNullable<Pane["under"]>;
const NOTHING: Under = { edition: null, shot: null, conditions: null };

/** What can be another one beside, by the field of what a pane shows: its word, and entries by key. */
const kinds = (scene: Scene) =>
  [
    ["edition", "Edition", inOrder(scene.editions, scene.edition_order)],
    ["conditions", "Light", Object.entries(scene.conditions)],
    ["shot", "Shot", inOrder(scene.shots, scene.shot_order)],
  ] as const;

const isAnother = (scene: Scene, edition: string) =>
  Object.entries(scene.editions[edition]?.choice ?? {}).some(
    ([group, variant]) => scene.variant_groups[group]?.chosen !== variant,
  );

export function PairSection() {
  const workspace = useWorkspace();
  const scene = useScene((s) => s);
  const under = useSlice((s) => s.panes[FREE]?.under ?? null);
  const apart = useSlice((s) => s.panes[FREE]?.camera !== null);
  const { edition: on } = useStanding();
  const there = kinds(scene).filter(([, , entries]) => entries.length > 0);
  /** With the first that is another one: an edition of which some variant is not on, or else light, or a shot. */
  const begin = () => {
    const other = Object.keys(scene.editions).find((key) => isAnother(scene, key));
    const [field, , entries] = there.find(([kind]) => kind !== "edition") ?? [];
    if (other) workspace.pair({ ...NOTHING, edition: other });
    else workspace.pair(field ? { ...NOTHING, [field]: entries?.[0]?.[0] ?? null } : NOTHING);
  };
  const said = (what: Under) =>
    there
      .flatMap(([field, , entries]) => entries.find(([key]) => key === what[field])?.[1].name ?? [])
      .join(", ") || "As it is";
  const onNow = on ? scene.editions[on]!.name : "As it is";
  /** What is beside becomes what is, and the edition that was stands beside. */
  const swap = async () => {
    if (!under?.edition) return;
    await workspace.commitBy("take_edition", SHOT, { edition: under.edition });
    workspace.pair({ ...under, edition: on });
  };
  if (!under)
    return (
      <Section title="Pair">
        <Button
          fullWidth
          size="small"
          variant="outlined"
          startIcon={<Columns2 size={15} />}
          disabled={there.length === 0}
          onClick={begin}
        >
          Show another beside
        </Button>
      </Section>
    );
  return (
    <Section title="Pair">
      <Box sx={{ display: "grid", gap: 1.25, pt: 0.5 }}>
        {there.map(([field, word, entries]) => (
          <TextField
            key={field}
            select
            size="small"
            label={`${word} beside`}
            value={under[field] ?? ""}
            onChange={({ target }) => workspace.pair({ ...under, [field]: target.value || null })}
          >
            <MenuItem value="">As it is</MenuItem>
            {entries.map(([key, { name }]) => (
              <MenuItem key={key} value={key}>
                {name}
              </MenuItem>
            ))}
          </TextField>
        ))}
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.5 }}>
          <Button
            size="small"
            variant="outlined"
            startIcon={<ArrowLeftRight size={14} />}
            disabled={!under.edition || !on}
            onClick={() => void swap()}
          >
            Swap
          </Button>
          <Button
            size="small"
            variant="outlined"
            aria-pressed={apart}
            onClick={() => workspace.setPane(FREE, { camera: apart ? null : workspace.cameraOf(FREE) })}
          >
            {apart ? "Turn together" : "Turn apart"}
          </Button>
          <Button
            size="small"
            variant="outlined"
            startIcon={<ImageDown size={14} />}
            onClick={() => captioned("pair.png", ["picture", "free-picture"], [onNow, said(under)])}
          >
            Save
          </Button>
          <Button size="small" onClick={() => workspace.toggleSecond()}>
            Close the pair
          </Button>
        </Box>
      </Box>
    </Section>
  );
}
