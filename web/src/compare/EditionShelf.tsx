/** Editions: named choices among the variants, each as a picture; one click takes one. */
import Box from "@mui/material/Box";
import IconButton from "@mui/material/IconButton";
import Tooltip from "@mui/material/Tooltip";
import { Pencil, Shirt, Shuffle, SkipForward, X } from "lucide-react";
import { useMemo } from "react";
import { Small } from "../light/CardList";
import { KeptStrip } from "../light/KeptStrip";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { inOrder } from "../store/order";
import { SHOT } from "../store/panes";
import { pointer, replace } from "../store/patch";
import { useHostPictures } from "../store/useHostPictures";
import { useStanding } from "./standing";

/** What of a document does not show in them, or is what they themselves say. */
const UNSEEN: ReadonlySet<string> = new Set([
  "print",
  "proof",
  "part_sets",
  "shots",
  "shot_order",
  "editions",
  "edition_order",
  "brand_colors",
]);

export function EditionShelf() {
  const workspace = useWorkspace();
  const editions = useScene((s) => s.editions);
  const order = useScene((s) => s.edition_order);
  const { edition: on } = useStanding();
  const entries = useMemo(() => inOrder(editions, order), [editions, order]);
  const wanted = useMemo(
    () => entries.map(([key, is]) => ({ key, question: { edition: key }, is })),
    [entries],
  );
  const pictures = useHostPictures("edition_picture", wanted, UNSEEN);
  const selection = useSlice((s) => s.selection);
  const dress = (key: string) =>
    void workspace.commitBy("take_edition", SHOT, { edition: key, copies: selection });
  const take = (key: string) => void workspace.commitBy("take_edition", SHOT, { edition: key });
  const place = entries.findIndex(([key]) => key === on);
  const next = () => {
    const found = entries[(place + 1) % entries.length];
    if (found) take(found[0]);
  };
  const chance = () => {
    const rest = entries.filter(([key]) => key !== on);
    const found = rest[Math.floor(Math.random() * rest.length)];
    if (found) take(found[0]);
  };
  const rename = (key: string, name: string) => {
    const said = prompt("Name of this edition", name)?.trim();
    if (said && said !== name)
      workspace.commit([replace(pointer("editions", key, "name"), said)], `Rename ${name}`);
  };
  return (
    <Box sx={{ height: "100%", display: "flex" }}>
      {entries.length > 1 && (
        <Box sx={{ display: "flex", flexDirection: "column", justifyContent: "center", pl: 1.5 }}>
          <Tooltip title="Next edition">
            <IconButton size="small" aria-label="Next edition" onClick={next}>
              <SkipForward size={15} />
            </IconButton>
          </Tooltip>
          <Tooltip title="Any other edition">
            <IconButton size="small" aria-label="Any other edition" onClick={chance}>
              <Shuffle size={15} />
            </IconButton>
          </Tooltip>
        </Box>
      )}
      <Box sx={{ flex: 1, minWidth: 0 }}>
        <KeptStrip
          label="Editions"
          kind="Edition"
          entries={entries}
          pictures={pictures}
          chosen={on}
          onTake={take}
          keep={{
            word: "Keep an edition",
            label: "Keep an edition of the variants that are on",
            onClick: () => void workspace.commitBy("keep_edition", SHOT),
          }}
          actions={(key, { name }) => (
            <>
              {selection.length > 0 && (
                <Small
                  title="On the chosen copies alone"
                  name={`${name} on the chosen copies`}
                  onClick={() => dress(key)}
                >
                  <Shirt size={12} />
                </Small>
              )}
              <Small title="Rename" name={`Rename ${name}`} onClick={() => rename(key, name)}>
                <Pencil size={12} />
              </Small>
              <Small
                title="Remove"
                name={`Remove ${name}`}
                onClick={() =>
                  workspace.commit([{ op: "remove", path: pointer("editions", key) }], `Remove ${name}`)
                }
              >
                <X size={12} />
              </Small>
            </>
          )}
        />
      </Box>
    </Box>
  );
}
