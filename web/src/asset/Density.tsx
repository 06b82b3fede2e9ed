/** How fine the selected parts are: triangles now and foreseen, and the image or the pattern that displaces them. */
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { useCallback, useMemo } from "react";
import type { Density as Counts, Operation, TextureUse } from "../api/types";
import { SourceMark } from "../controls/InputMark";
import { PATTERNS, type SourceKind } from "../controls/inputs";
import { SourceEditor } from "../materials/InputEditor";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { pointer, replace } from "../store/patch";
import { useAnswer } from "../store/useAnswer";
import { ImageChoice } from "./ImageChoice";

export function Density({ parts }: { parts: string[] }) {
  return (
    <>
      <Image parts={parts} />
      <Pattern parts={parts} />
      <Triangles parts={parts} />
    </>
  );
}

/** "14 868", "952 thousand", "1.25 million" */
export function amount(count: number): string {
  if (count < 500_000) return count.toLocaleString("en").replaceAll(",", " ");
  return count < 1e6 ? `${Math.round(count / 1e3)} thousand` : `${(count / 1e6).toPrecision(3)} million`;
}

const bytes = (count: number): string =>
  count < 1e9 ? `${Math.ceil(count / 1e6)} MB` : `${(count / 1e9).toFixed(1)} GB`;

/** What a count says: nothing of the print while it is as the proof. */
export function countsOf({ brought, proof, print, bytes: memory }: Counts): string {
  const grown = proof === brought ? "" : `, ${amount(proof)} in the proof`;
  const last = print === proof ? "" : `, ${amount(print)} in the print`;
  const noun = brought === 1 ? "triangle" : "triangles";
  return `${amount(brought)} ${noun}${grown}${last} · ${bytes(memory)}`;
}

function Triangles({ parts }: { parts: string[] }) {
  const workspace = useWorkspace();
  const all = useScene((s) => s.parts);
  const host = useSlice((s) => s.host);
  const stamp = parts.join(" ");
  // What the answer depends on: how fine the parts are to be, and that the host is there to say it.
  const asked = useMemo(() => ({ keys: stamp.split(" "), all, host }), [stamp, all, host]);
  const ask = useCallback(({ keys }: typeof asked) => workspace.density(keys), [workspace]);
  const counts = useAnswer(asked, ask);
  if (!counts || counts.brought === 0) return null;
  return (
    <Typography variant="caption" color="textSecondary" component="p" data-testid="triangles">
      {countsOf(counts)}
    </Typography>
  );
}

function Image({ parts }: { parts: string[] }) {
  const workspace = useWorkspace();
  const chosen = useScene((s) => s.parts[parts[0]!]?.displacement_texture ?? null);
  const use = (image: TextureUse | null) => {
    const patch: Operation[] = parts.map((key) =>
      replace(pointer("parts", key, "displacement_texture"), image),
    );
    if (image) patch.push(...parts.map((key) => replace(pointer("parts", key, "displacement_input"), null)));
    workspace.commit(patch, image ? "Image that displaces" : "No displacement");
  };
  return <ImageChoice label="Displaced by" chosen={chosen} onChoose={use} />;
}

const UNFOLDS = "input.displacement";
/** A pattern that displaces is carried by its part, and is a height by itself. */
const SAYS_NOTHING = ["combine", "amount", "space"];

function Pattern({ parts }: { parts: string[] }) {
  const workspace = useWorkspace();
  const places = useMemo(() => parts.map((key) => ["parts", key, "displacement_input"]), [parts]);
  const take = (kind: SourceKind) => workspace.addRelief(parts, kind);
  return (
    <>
      <Box sx={{ display: "flex", alignItems: "center", minHeight: 26 }}>
        <Typography variant="body2" color="textSecondary">
          By a pattern
        </Typography>
        <SourceMark inputs={places} label="Displacement" unfolds={UNFOLDS} kinds={PATTERNS} onTake={take} />
      </Box>
      <SourceEditor
        places={places}
        label="Displacement"
        unfolds={UNFOLDS}
        hasRamp={false}
        but={SAYS_NOTHING}
        kinds={PATTERNS}
        onTake={take}
        onRemove={() =>
          workspace.commit(
            places.map((place) => replace(pointer(...place), null)),
            "No displacement",
          )
        }
      />
    </>
  );
}
