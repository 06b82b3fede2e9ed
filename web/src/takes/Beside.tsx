/** Takes against the first of them: in the picture by one of several ways, and in words, each difference to be taken over. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { ArrowLeftRight } from "lucide-react";
import { useState } from "react";
import { takes as kept } from "../api/takes";
import type { Area, Comparison, Operation, TakeEntry } from "../api/types";
import { useSlice, useWorkspace } from "../store/context";
import { hourOf } from "./keeping";
import { Over, SMALL } from "./Over";
import { TwoPictures, type Way } from "./TwoPictures";

const TITLES: Record<number, string> = { 3: "Three takes", 4: "Four takes" };
const WAYS: Record<Way, string> = {
  beside: "Side by side",
  wipe: "Wipe",
  blink: "Blink",
  absolute: "Difference in value",
  colour: "Difference in colour, ΔE2000",
  perceptual: "Difference as it is seen",
};

/** Two at least. */
export type Several = readonly [TakeEntry, TakeEntry, ...TakeEntry[]];

export function Beside({ takes }: { takes: Several }) {
  const workspace = useWorkspace();
  const [first, ...others] = takes;
  /** Which of the others the first is held against; side by side all are seen. */
  const [against, setAgainst] = useState(0);
  const second = others[against] ?? takes[1];
  const swapped = takes.map((take) => (take === first ? second : take === second ? first : take));
  const [way, setWay] = useState<Way>("beside");
  return (
    <Over
      title={TITLES[takes.length] ?? "Two takes"}
      isOfSheet
      actions={
        <>
          {others.length > 1 && (
            <Select
              size="small"
              value={against}
              onChange={(event) => setAgainst(event.target.value)}
              inputProps={{ "aria-label": "Held against the first" }}
              sx={SMALL}
            >
              {others.map((take, place) => (
                <MenuItem key={take.id} value={place}>
                  1 → {place + 2} · {hourOf(take.created)} {take.shown}
                </MenuItem>
              ))}
            </Select>
          )}
          <Select
            size="small"
            value={way}
            onChange={(event) => setWay(event.target.value as Way)}
            inputProps={{ "aria-label": "Compared by" }}
            sx={SMALL}
          >
            {Object.entries(WAYS).map(([key, word]) => (
              <MenuItem key={key} value={key}>
                {word}
              </MenuItem>
            ))}
          </Select>
          <Button
            size="small"
            startIcon={<ArrowLeftRight size={14} />}
            onClick={() => workspace.set({ takes: swapped.map(({ id }) => id) })}
          >
            Swap
          </Button>
        </>
      }
    >
      <Box sx={{ flex: 1, minHeight: 0, display: "flex" }}>
        <TwoPictures takes={takes} second={second} way={way} />
        <InWords first={first} second={second} />
      </Box>
    </Over>
  );
}

function InWords({ first, second }: { first: TakeEntry; second: TakeEntry }) {
  const workspace = useWorkspace();
  const revision = useSlice((s) => s.revision);
  const found = useQuery({
    queryKey: ["words", first.id, second.id, revision],
    queryFn: () => kept.words(first.id, second.id),
  });
  const take = (patch: Operation[], said: string) => {
    if (patch.length > 0) workspace.commit(patch, `Take over: ${said}`);
    else workspace.notify({ severity: "info", text: `${said}: that is so already.` });
  };
  const data = found.data;
  return (
    <Box
      component="aside"
      aria-label="What differs"
      sx={{ width: 288, flexShrink: 0, bgcolor: "background.paper", overflowY: "auto", p: 1.5 }}
    >
      <Typography component="h3" variant="body2" sx={{ fontWeight: 600, mb: 1 }}>
        What differs, {hourOf(first.created)} → {hourOf(second.created)}
      </Typography>
      {found.error && <Typography variant="caption">{found.error.message}</Typography>}
      {data?.differences.length === 0 && (
        <Typography variant="caption" color="textSecondary">
          Nothing: both were made from the same document.
        </Typography>
      )}
      {data && <Areas differences={data.differences} onTake={take} />}
      {data && data.more > 0 && <Typography variant="caption">And {data.more} more.</Typography>}
    </Box>
  );
}

type Told = Comparison["differences"][number];
const BOTH = ["first", "second"] as const;
const AREAS: Record<Area, string> = {
  asset: "Parts",
  materials: "Materials",
  light: "Light",
  camera: "Camera",
  look: "Look",
  print: "Proof and print",
};

interface AreasProps {
  differences: readonly Told[];
  onTake: (patch: Operation[], said: string) => void;
}

/** The differences under the names of their areas; each, or all of an area, can be taken over either way. */
function Areas({ differences, onTake }: AreasProps) {
  const patchOf = (told: readonly Told[], which: (typeof BOTH)[number]) =>
    told.flatMap((each) => (which === "first" ? each.as_first : each.as_second)) as unknown as Operation[];
  return Object.entries(AREAS).map(([area, word]) => {
    const told = differences.filter((each) => each.area === area);
    return (
      told.length > 0 && (
        <Box key={area} component="section" aria-label={`${word}: what differs`} sx={{ mb: 1 }}>
          <Line
            said={word}
            isHead
            named={told.length > 1 ? "All" : null}
            onTake={(which) => onTake(patchOf(told, which), word)}
          />
          {told.map((each) => (
            <Line
              key={`${each.said} ${JSON.stringify([...each.as_first, ...each.as_second].map(({ path }) => path))}`}
              said={each.said}
              named="As"
              onTake={(which) => onTake(patchOf([each], which), each.said)}
            />
          ))}
        </Box>
      )
    );
  });
}

interface LineProps {
  said: string;
  isHead?: boolean;
  /** How its buttons begin; none without. */
  named: "All" | "As" | null;
  onTake: (which: (typeof BOTH)[number]) => void;
}

function Line({ said, isHead = false, named, onTake }: LineProps) {
  return (
    <Box sx={{ py: 0.5, borderTop: "1px solid", borderColor: "divider" }}>
      <Typography variant="caption" component="p" sx={{ fontWeight: isHead ? 600 : 400 }}>
        {said}
      </Typography>
      {named && (
        <Box sx={{ display: "flex", gap: 0.5 }}>
          {BOTH.map((which) => (
            <Button
              key={which}
              size="small"
              aria-label={`${named === "All" ? "All as" : "As"} in the ${which}: ${said}`}
              sx={{ py: 0, minWidth: 0 }}
              onClick={() => onTake(which)}
            >
              {named === "All" ? "All as" : "As"} in the {which}
            </Button>
          ))}
        </Box>
      )}
    </Box>
  );
}
