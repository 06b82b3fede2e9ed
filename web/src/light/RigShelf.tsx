/** Rigs, each shown on this asset: one click lights it so; with Shift its lights are added. */
import Box from "@mui/material/Box";
import { Trash2 } from "lucide-react";
import { useMemo, useRef } from "react";
import { api } from "../api/client";
import { changed, useRigs } from "../api/queries";
import type { Rig, RigEntry } from "../api/types";
import { Strip } from "../controls/Strip";
import { useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { AddTile } from "./AddTile";
import { Small } from "./CardList";
import { LitCard, PITCH } from "./LitCard";
import { useLitPictures } from "./useLitPictures";

const NONE: RigEntry[] = [];

export function RigShelf() {
  const workspace = useWorkspace();
  const { data: rigs = NONE } = useRigs();
  const wanted = useMemo(() => rigs.map(({ key, rig }) => ({ key, question: { rig }, is: rig })), [rigs]);
  const pictures = useLitPictures(wanted);
  const fail = (error: Error) => workspace.notify({ severity: "error", text: error.message });

  const take = async ({ rig }: RigEntry, adds: boolean) => {
    const key = await workspace.commitBy("take_rig", SHOT, { rig, adds });
    if (key === null) workspace.notify({ severity: "info", text: "The proof is not ready yet; try again." });
  };
  const keep = async () => {
    const answer = await workspace.askHost<{ rig: Rig | null }>("keep_rig", SHOT, {
      name: `Rig ${rigs.filter((one) => !one.built_in).length + 1}`,
    });
    if (answer?.rig) api.keepRig(answer.rig).then(changed.rigs, fail);
  };
  // Arrow keys light the asset as they go along the shelf.
  const walks = useRef(false);
  return (
    <Box
      sx={{ height: "100%" }}
      onKeyDownCapture={({ key }) => {
        walks.current = key === "ArrowLeft" || key === "ArrowRight";
      }}
      onPointerDownCapture={() => {
        walks.current = false;
      }}
    >
      <Strip
        label="Rigs"
        count={rigs.length + 1}
        pitch={PITCH}
        keyOf={(index) => rigs[index]?.key ?? "keep"}
        render={(index, item) => {
          const entry = rigs[index];
          if (!entry)
            return (
              <AddTile
                item={item}
                word="Keep this light"
                label="Keep this light as a rig"
                onClick={() => void keep()}
              />
            );
          return (
            <LitCard
              item={item}
              name={entry.name}
              label={`Rig ${entry.name}`}
              picture={pictures[entry.key]}
              onClick={(event) => void take(entry, event.shiftKey)}
              onFocus={() => {
                if (walks.current) void take(entry, false);
              }}
            >
              {!entry.built_in && (
                <Box sx={{ bgcolor: "rgba(23,23,23,0.8)", borderRadius: 1 }}>
                  <Small
                    title="Take it off the shelf"
                    name={`Take ${entry.name} off the shelf`}
                    onClick={() => void api.takeOffRig(entry.key).then(changed.rigs, fail)}
                  >
                    <Trash2 size={13} />
                  </Small>
                </Box>
              )}
            </LitCard>
          );
        }}
      />
    </Box>
  );
}
