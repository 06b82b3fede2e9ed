/** Looks, each shown on this picture: one click takes it, as much of it as the slider says. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import Slider from "@mui/material/Slider";
import Typography from "@mui/material/Typography";
import { Download, Trash2, Upload } from "lucide-react";
import { useMemo, useRef, useState } from "react";
import { api, type LookForm, saveLook } from "../api/client";
import { changed, useLooks } from "../api/queries";
import type { Look, LookEntry } from "../api/types";
import { FileInput } from "../controls/FileInput";
import { Strip } from "../controls/Strip";
import { AddTile } from "../light/AddTile";
import { Small } from "../light/CardList";
import { LitCard, PITCH } from "../light/LitCard";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { bring } from "../store/jobs";
import { SHOT } from "../store/panes";
import { useHostPictures } from "../store/useHostPictures";

const NONE: LookEntry[] = [];
/** What of a document does not show in the pictures, or is what they are about. */
const UNSEEN: ReadonlySet<string> = new Set([
  "look",
  "conditions",
  "proof",
  "part_sets",
  "shots",
  "shot_order",
]);
const FORMS: Record<LookForm, string> = {
  json: "The whole look (.json)",
  cdl: "Its colour decision (.cc)",
  cube: "Its grade as a table (.cube, ACEScct)",
};

export function LookShelf() {
  const workspace = useWorkspace();
  const { data = NONE } = useLooks();
  // The profile of a press changes no picture.
  const looks = useMemo(() => data.filter(({ look }) => !look.press_profile), [data]);
  const [amount, setAmount] = useState(100);
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const settled = useSlice((s) => s.panes[SHOT]?.status?.settled ?? false);
  const light = useScene((s) => [s.look.exposure, s.look.white_temperature, s.look.white_tint].join(" "));
  const wanted = useMemo(
    () => looks.map(({ key, look }) => ({ key, question: { look }, is: look })),
    [looks],
  );
  const pictures = useHostPictures("look_picture", wanted, UNSEEN, `${light} ${settled}`);
  const fail = (error: Error) => workspace.notify({ severity: "error", text: error.message });
  const walks = useRef(false);

  const take = ({ name, look }: LookEntry, share = amount) =>
    void workspace.commitBy("take_look", SHOT, { name, look, amount: share / 100 });
  const keep = async () => {
    const answer = await workspace.askHost<{ look: Look | null }>("keep_look", SHOT, { name: "Look" });
    const name = prompt(
      "Name of this look",
      `Look ${looks.filter((one) => !one.built_in).length + 1}`,
    )?.trim();
    if (answer?.look && name) api.keepLook({ name, look: answer.look }).then(changed.looks, fail);
  };
  const add = async (file: File) => {
    await bring("look", file, { onProblem: (text) => fail(new Error(text)) });
    void changed.looks();
  };
  return (
    <Box sx={{ height: "100%", display: "flex" }}>
      <Box sx={{ width: 132, flexShrink: 0, pl: 2, pr: 1, py: 0.75 }}>
        <Typography variant="caption" color="textSecondary">{`As much as ${amount} %`}</Typography>
        <Slider
          size="small"
          min={0}
          max={100}
          value={amount}
          aria-label="How much of a look is taken"
          onChange={(_, next) => setAmount(next)}
          sx={{ py: 0.75, display: "block" }}
        />
        <Box sx={{ display: "flex", gap: 0.5 }}>
          <Button
            size="small"
            startIcon={<Upload size={13} />}
            onClick={() => input.current?.click()}
            sx={{ px: 0.5, minWidth: 0 }}
          >
            Bring
          </Button>
          <Button
            size="small"
            startIcon={<Download size={13} />}
            aria-haspopup="menu"
            onClick={(event) => setMenu(event.currentTarget)}
            sx={{ px: 0.5, minWidth: 0 }}
          >
            Save
          </Button>
        </Box>
        <Menu anchorEl={menu} open={menu !== null} onClose={() => setMenu(null)}>
          {(Object.entries(FORMS) as [LookForm, string][]).map(([form, word]) => (
            <MenuItem
              key={form}
              dense
              onClick={() => {
                setMenu(null);
                saveLook(workspace.getState().project, form).catch(fail);
              }}
            >
              {word}
            </MenuItem>
          ))}
        </Menu>
        <FileInput
          ref={input}
          label="Look file"
          accept=".cube,.cc,.ccc,.cdl,.json,.ocio,.ocioz"
          onFile={add}
        />
      </Box>
      <Box
        sx={{ flex: 1, minWidth: 0 }}
        onKeyDownCapture={({ key }) => {
          walks.current = key === "ArrowLeft" || key === "ArrowRight";
        }}
        onPointerDownCapture={() => {
          walks.current = false;
        }}
      >
        <Strip
          label="Looks"
          count={looks.length + 1}
          pitch={PITCH}
          keyOf={(index) => looks[index]?.key ?? "keep"}
          render={(index, item) => {
            const entry = looks[index];
            if (!entry)
              return (
                <AddTile
                  item={item}
                  word="Keep this look"
                  label="Keep this look on the shelf"
                  onClick={() => void keep()}
                />
              );
            return (
              <LitCard
                item={item}
                name={entry.name}
                label={`Look ${entry.name}`}
                picture={pictures[entry.key]}
                onClick={() => take(entry)}
                onFocus={() => {
                  if (walks.current) take(entry);
                }}
              >
                {!entry.built_in && (
                  <Box sx={{ bgcolor: "rgba(23,23,23,0.8)", borderRadius: 1 }}>
                    <Small
                      title="Take it off the shelf"
                      name={`Take ${entry.name} off the shelf`}
                      onClick={() => void api.takeOffLook(entry.key).then(changed.looks, fail)}
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
    </Box>
  );
}
