/** What a project keeps on a shelf, each as a picture on this asset: one click takes one; the last place keeps another. */
import Box from "@mui/material/Box";
import type { ReactNode } from "react";
import { Strip } from "../controls/Strip";
import { AddTile } from "./AddTile";
import { LitCard, PITCH } from "./LitCard";

interface Props<T extends { name: string }> {
  label: string;
  /** What one is called when it is read out, before its name. */
  kind: string;
  entries: readonly [string, T][];
  pictures: Record<string, string>;
  chosen: string | null;
  onTake: (key: string) => void;
  /** Keeping another: in two or three words, and as it is read out. */
  keep: { word: string; label: string; onClick: () => void };
  /** What else is written of one, in the place of its name. */
  nameOf?: (one: T) => string;
  /** What can be done with one. */
  actions: (key: string, one: T) => ReactNode;
}

export function KeptStrip<T extends { name: string }>(props: Props<T>) {
  const { label, kind, entries, pictures, chosen, onTake, keep, nameOf, actions } = props;
  return (
    <Strip
      label={label}
      count={entries.length + 1}
      pitch={PITCH}
      keyOf={(index) => entries[index]?.[0] ?? "keep"}
      render={(index, item) => {
        const entry = entries[index];
        if (!entry) return <AddTile item={item} {...keep} />;
        const [key, one] = entry;
        return (
          <LitCard
            item={item}
            name={nameOf?.(one) ?? one.name}
            label={`${kind} ${one.name}`}
            picture={pictures[key]}
            isChosen={chosen === key}
            onClick={() => onTake(key)}
          >
            <Box sx={{ display: "flex", bgcolor: "rgba(23,23,23,0.8)", borderRadius: 1 }}>
              {actions(key, one)}
            </Box>
          </LitCard>
        );
      }}
    />
  );
}
