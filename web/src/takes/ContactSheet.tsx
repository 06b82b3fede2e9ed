/** The contact sheet: takes by time or board; found by words and stars; up to four chosen are compared; printed as PDF. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import TextField from "@mui/material/TextField";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import { type DragEvent, useRef, useState } from "react";
import { changed } from "../api/queries";
import { takes as kept } from "../api/takes";
import type { TakeEntry } from "../api/types";
import { FileInput } from "../controls/FileInput";
import { useWorkspace } from "../store/context";
import { bring } from "../store/jobs";
import { MOST_COMPARED } from "../store/view";
import { useTakeChange } from "./keeping";
import { Over, SMALL } from "./Over";
import { TakeCard } from "./TakeCard";
import { NO_BOARD, type Wanted, walls } from "./walls";

const NUMBERS: Record<number, string> = { 3: "three", 4: "four" };
const ALL: Wanted = { words: "", stars: 0, by: "time" };

export function ContactSheet({ takes }: { takes: TakeEntry[] }) {
  const workspace = useWorkspace();
  const [wanted, setWanted] = useState(ALL);
  const [chosen, setChosen] = useState<number[]>([]);
  const groups = walls(takes, wanted);
  const shown = groups.flatMap(([, each]) => each.map((take) => take.id));
  const pinned = useTakeChange<{ id: number; board: string }>(workspace, ({ id, board }) =>
    kept.change(id, { board }),
  );
  const choose = (id: number) =>
    setChosen((now) =>
      now.includes(id) ? now.filter((each) => each !== id) : [...now, id].slice(-MOST_COMPARED),
    );
  const input = useRef<HTMLInputElement>(null);
  /** A picture that was printed here says what made it: it is a take again. */
  const open = async (file: File) => {
    const { project } = workspace.getState();
    const onProblem = (text: string) => workspace.notify({ severity: "error", text });
    if ((await bring("picture", file, { swaps: project, onProblem })) !== null) await changed.takes(project);
  };
  const print = async () => {
    try {
      await kept.sheet(workspace.getState().project, shown);
    } catch (error) {
      workspace.notify({ severity: "error", text: (error as Error).message });
    }
  };
  return (
    <Over
      title="Contact sheet"
      actions={
        <>
          <Filters wanted={wanted} onChange={setWanted} />
          <Button
            size="small"
            variant="contained"
            disabled={chosen.length < 2}
            onClick={() => workspace.set({ takes: chosen })}
          >
            Compare {NUMBERS[chosen.length] ?? "two"}
          </Button>
          <Button size="small" onClick={() => input.current?.click()}>
            Open a picture
          </Button>
          <FileInput
            ref={input}
            label="Printed picture"
            accept=".png,.jpg,.jpeg,.tif,.tiff,.exr"
            onFile={(file) => void open(file)}
          />
          <Button size="small" variant="outlined" disabled={shown.length === 0} onClick={() => void print()}>
            Save as PDF
          </Button>
        </>
      }
    >
      <Box sx={{ flex: 1, overflowY: "auto", px: 2, py: 1.5 }}>
        {takes.length === 0 && (
          <Typography color="textSecondary" sx={{ maxWidth: 420 }}>
            Nothing has been kept yet. <b>K</b> keeps the picture as it is, with all that made it, at every
            stop.
          </Typography>
        )}
        {takes.length > 0 && shown.length === 0 && (
          <Typography color="textSecondary">No take has these words and so many stars.</Typography>
        )}
        {groups.map(([name, each]) => (
          <Wall
            key={name}
            name={name}
            onDrop={
              wanted.by === "board"
                ? (id) => pinned.mutate({ id, board: name === NO_BOARD ? "" : name })
                : undefined
            }
          >
            {each.map((take) => (
              <TakeCard
                key={take.id}
                take={take}
                place={chosen.indexOf(take.id)}
                onChoose={() => choose(take.id)}
              />
            ))}
          </Wall>
        ))}
      </Box>
    </Over>
  );
}

interface WallProps {
  name: string;
  /** Takes a take that is dragged here, where groups are boards. */
  onDrop: ((id: number) => void) | undefined;
  children: React.ReactNode;
}

function Wall({ name, onDrop, children }: WallProps) {
  const drop = (event: DragEvent) => {
    const id = Number(event.dataTransfer.getData("text/plain"));
    if (onDrop && id > 0) {
      event.preventDefault();
      onDrop(id);
    }
  };
  return (
    <Box
      component="section"
      aria-label={name}
      onDragOver={(event) => onDrop && event.preventDefault()}
      onDrop={drop}
      sx={{ mb: 2 }}
    >
      <Typography component="h3" variant="body2" sx={{ fontWeight: 600, mb: 0.75 }}>
        {name}
      </Typography>
      <Box sx={{ display: "grid", gap: 1.5, gridTemplateColumns: "repeat(auto-fill, minmax(196px, 1fr))" }}>
        {children}
      </Box>
    </Box>
  );
}

function Filters({ wanted, onChange }: { wanted: Wanted; onChange: (wanted: Wanted) => void }) {
  return (
    <>
      <TextField
        size="small"
        placeholder="Words"
        value={wanted.words}
        onChange={(event) => onChange({ ...wanted, words: event.target.value })}
        slotProps={{ htmlInput: { "aria-label": "Words in a take" } }}
        sx={{ ...SMALL, width: 120 }}
      />
      <Select
        size="small"
        value={wanted.stars}
        onChange={(event) => onChange({ ...wanted, stars: Number(event.target.value) })}
        inputProps={{ "aria-label": "Stars, at least" }}
        sx={SMALL}
      >
        {[0, 1, 2, 3, 4, 5].map((stars) => (
          <MenuItem key={stars} value={stars}>
            {stars === 0 ? "Any stars" : `${"★".repeat(stars)} or more`}
          </MenuItem>
        ))}
      </Select>
      <ToggleButtonGroup
        exclusive
        size="small"
        aria-label="Hung by"
        value={wanted.by}
        onChange={(_, by: Wanted["by"] | null) => by && onChange({ ...wanted, by })}
      >
        <ToggleButton value="time" sx={{ py: 0.25 }}>
          Time
        </ToggleButton>
        <ToggleButton value="board" sx={{ py: 0.25 }}>
          Board
        </ToggleButton>
      </ToggleButtonGroup>
    </>
  );
}
