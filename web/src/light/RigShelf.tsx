/** Rigs, each shown on this asset: one click lights it so; with Shift its lights are added. */
import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import Typography from "@mui/material/Typography";
import { Plus, Trash2 } from "lucide-react";
import { useMemo } from "react";
import { api } from "../api/client";
import { changed, useRigs } from "../api/queries";
import type { Rig, RigEntry } from "../api/types";
import { Strip } from "../controls/Strip";
import { useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { Small } from "./CardList";
import { LitCard, PITCH } from "./LitCard";
import { useLitPictures } from "./useLitPictures";

const NONE: RigEntry[] = [];

export function RigShelf() {
  const workspace = useWorkspace();
  const { data: rigs = NONE } = useRigs();
  const wanted = useMemo(() => rigs.map(({ key, rig }) => ({ key, question: { rig } })), [rigs]);
  const pictures = useLitPictures(wanted);
  const fail = (error: Error) => workspace.notify({ severity: "error", text: error.message });

  const take = async ({ rig }: RigEntry, adds: boolean) => {
    const key = await workspace.lightBy("take_rig", SHOT, { rig, adds });
    if (key === null) workspace.notify({ severity: "info", text: "The proof is not ready yet; try again." });
  };
  const keep = async () => {
    const answer = await workspace.askLight<{ rig: Rig | null }>("keep_rig", SHOT, {
      name: `Rig ${rigs.filter((one) => !one.built_in).length + 1}`,
    });
    if (answer?.rig) api.keepRig(answer.rig).then(changed.rigs, fail);
  };
  return (
    <Strip
      label="Rigs"
      count={rigs.length + 1}
      pitch={PITCH}
      keyOf={(index) => rigs[index]?.key ?? "keep"}
      render={(index, item) => {
        const entry = rigs[index];
        if (!entry)
          return (
            <ButtonBase
              {...item}
              onClick={() => void keep()}
              aria-label="Keep this light as a rig"
              sx={{
                width: 104,
                height: 68,
                flexDirection: "column",
                border: "1px dashed",
                borderColor: "divider",
                borderRadius: 1,
                color: "text.secondary",
              }}
            >
              <Plus size={18} />
              <Typography variant="caption">Keep this light</Typography>
            </ButtonBase>
          );
        return (
          <LitCard
            item={item}
            name={entry.name}
            label={`Rig ${entry.name}`}
            picture={pictures[entry.key]}
            onClick={(event) => void take(entry, event.shiftKey)}
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
  );
}
