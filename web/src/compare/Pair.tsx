/** A pair, or up to four: the document as it is, and beside it under other editions, in other light or shots. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { ArrowLeftRight, Columns2, ImageDown } from "lucide-react";
import { useLooks } from "../api/queries";
import type { LookEntry, Scene } from "../api/types";
import { Section } from "../controls/Section";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { inOrder } from "../store/order";
import { idOf, MOST_PANES, nameOf, type Pane, type PaneNumber, SHOT } from "../store/panes";
import { captioned } from "./captioned";
import { useStanding } from "./standing";

type Under = NonNullable<Pane["under"]>;
const NO_LOOKS: LookEntry[] = [];
/** The choice that keeps the document's look of that moment. */
const HELD = "held";
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

/** What the next pane begins with: an edition that is neither on nor beside, or else such light, or such a shot. */
function another(scene: Scene, besides: readonly Under[]): Under {
  for (const [field, , entries] of kinds(scene)) {
    const seen = besides.map((each) => each[field]);
    const fresh = entries.find(
      ([key]) => !seen.includes(key) && (field !== "edition" || isAnother(scene, key)),
    );
    if (fresh) return { ...NOTHING, [field]: fresh[0] };
  }
  return NOTHING;
}

const said = (scene: Scene, { under, look }: Pane) =>
  [
    ...kinds(scene).flatMap(
      ([field, , entries]) => entries.find(([key]) => key === under?.[field])?.[1].name ?? [],
    ),
    ...(look ? [look.name] : []),
  ].join(", ") || "As it is";

export function PairSection() {
  const workspace = useWorkspace();
  const scene = useScene((s) => s);
  const panes = useSlice((s) => s.panes);
  const { edition: on } = useStanding();
  const besides = panes.flatMap(({ under }) => under ?? []);
  const isPair = besides.length > 0;
  const begin = () => workspace.pair(another(scene, besides), (besides.length + 1) as PaneNumber);
  const save = () => {
    const ids = panes.map((_, number) => idOf(number as PaneNumber, "picture"));
    const onNow = on ? scene.editions[on]!.name : "As it is";
    captioned("pair.png", ids, [onNow, ...panes.slice(1).map((pane) => said(scene, pane))]);
  };
  return (
    <Section title="Pair">
      <Box sx={{ display: "grid", gap: 1.25, pt: 0.5 }}>
        {panes.map(({ under }, number) => {
          const name = nameOf(number as PaneNumber, true);
          return (
            under && <Beside key={name} number={number as PaneNumber} name={name} under={under} on={on} />
          );
        })}
        {besides.length < MOST_PANES - 1 && (
          <Button
            fullWidth
            size="small"
            variant="outlined"
            startIcon={<Columns2 size={15} />}
            onClick={begin}
          >
            Show another beside
          </Button>
        )}
        {isPair && (
          <Box sx={{ display: "flex", gap: 0.5 }}>
            <Button size="small" variant="outlined" startIcon={<ImageDown size={14} />} onClick={save}>
              Save
            </Button>
            <Button size="small" onClick={() => workspace.toggleSecond()}>
              Close the pair
            </Button>
          </Box>
        )}
      </Box>
    </Section>
  );
}

interface BesideProps {
  number: PaneNumber;
  name: string;
  under: Under;
  /** The edition that is on. */
  on: string | null;
}

/** What one pane of a pair shows, and whether it turns along. */
function Beside({ number, name, under, on }: BesideProps) {
  const workspace = useWorkspace();
  const scene = useScene((s) => s);
  const apart = useSlice((s) => s.panes[number]?.camera !== null);
  /** What is beside becomes what is, and the edition that was stands beside. */
  const swap = async () => {
    await workspace.commitBy("take_edition", SHOT, { edition: under.edition });
    workspace.pair({ ...under, edition: on }, number);
  };
  return (
    <Box role="group" aria-label={name} sx={{ display: "grid", gap: 1.25, pt: 0.75 }}>
      {kinds(scene)
        .filter(([, , entries]) => entries.length > 0)
        .map(([field, word, entries]) => (
          <TextField
            key={field}
            select
            size="small"
            label={`${word} ${name.toLowerCase()}`}
            value={under[field] ?? ""}
            onChange={({ target }) => workspace.pair({ ...under, [field]: target.value || null }, number)}
          >
            <MenuItem value="">As it is</MenuItem>
            {entries.map(([key, entry]) => (
              <MenuItem key={key} value={key}>
                {entry.name}
              </MenuItem>
            ))}
          </TextField>
        ))}
      <LookOf number={number} name={name} />
      <Box sx={{ display: "flex", gap: 0.5 }}>
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
          onClick={() => workspace.setPane(number, { camera: apart ? null : workspace.cameraOf(number) })}
        >
          {apart ? "Turn together" : "Turn apart"}
        </Button>
      </Box>
    </Box>
  );
}

/** A look of its own for one pane: one of the shelf, or that of now, which stays while the document's is changed. */
function LookOf({ number, name }: { number: PaneNumber; name: string }) {
  const workspace = useWorkspace();
  const { data: shelf = NO_LOOKS } = useLooks();
  const own = useSlice((s) => s.panes[number]?.look ?? null);
  const now = useScene((s) => s.look);
  const choose = (key: string) => {
    const entry = shelf.find((each) => each.key === key);
    const kept = { name: "The look as it was", look: now };
    workspace.setPane(number, { look: key === HELD ? kept : (entry ?? null) });
  };
  const chosen = shelf.find((each) => each.look === own?.look)?.key;
  return (
    <TextField
      select
      size="small"
      label={`Look ${name.toLowerCase()}`}
      value={own ? (chosen ?? HELD) : ""}
      onChange={({ target }) => choose(target.value)}
    >
      <MenuItem value="">As it is</MenuItem>
      <MenuItem value={HELD}>As it is now, held</MenuItem>
      {shelf.map((entry) => (
        <MenuItem key={entry.key} value={entry.key}>
          {entry.name}
        </MenuItem>
      ))}
    </TextField>
  );
}
