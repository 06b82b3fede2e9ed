/** One take on the sheet: pressed it is opened; chosen by its corner; dragged onto a board. */
import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import Checkbox from "@mui/material/Checkbox";
import Typography from "@mui/material/Typography";
import type { TakeEntry } from "../api/types";
import { useWorkspace } from "../store/context";
import { hourOf, useSaid } from "./keeping";
import { Stars } from "./Stars";

const REASONS: Record<string, string> = { print: "at a print", restore: "before restoring" };

interface Props {
  take: TakeEntry;
  /** 0 for the first that is chosen to be compared, 1 for the second, -1 for others. */
  place: number;
  onChoose: () => void;
}

export function TakeCard({ take, place, onChoose }: Props) {
  const workspace = useWorkspace();
  const said = useSaid(workspace, take.id);
  const name = nameOf(take);
  return (
    <Box
      role="group"
      aria-label={name}
      draggable
      onDragStart={(event) => event.dataTransfer.setData("text/plain", `${take.id}`)}
      sx={{ minWidth: 0 }}
    >
      <Box sx={{ position: "relative" }}>
        <ButtonBase
          aria-label={`Open ${name}`}
          onClick={() => workspace.set({ takes: take.id })}
          sx={{
            display: "block",
            width: "100%",
            borderRadius: 1,
            overflow: "hidden",
            outline: place >= 0 ? "2px solid" : "none",
            outlineColor: "primary.main",
          }}
        >
          <Box
            component="img"
            src={take.thumbnail}
            alt=""
            draggable={false}
            sx={{
              display: "block",
              width: "100%",
              aspectRatio: "8 / 5",
              objectFit: "contain",
              bgcolor: "#1c1c1c",
            }}
          />
        </ButtonBase>
        <Checkbox
          size="small"
          checked={place >= 0}
          onChange={onChoose}
          slotProps={{ input: { "aria-label": `Choose ${name} to compare` } }}
          sx={{ position: "absolute", right: 4, top: 4, p: 0.25, bgcolor: "rgba(23,23,23,0.7)" }}
        />
      </Box>
      <Box sx={{ display: "flex", alignItems: "center", mt: 0.25 }}>
        <Typography variant="caption" color="textSecondary" noWrap sx={{ flex: 1 }}>
          {[hourOf(take.created), take.shown, REASONS[take.reason]].filter(Boolean).join(" · ")}
        </Typography>
        <Stars value={take.stars} onChange={(stars) => said.mutate({ stars })} />
      </Box>
      {take.note && (
        <Typography variant="caption" component="p" sx={{ overflow: "hidden", maxHeight: 34 }}>
          {take.note}
        </Typography>
      )}
      {take.labels.length > 0 && (
        <Typography variant="caption" color="textSecondary" component="p" noWrap>
          {take.labels.join(", ")}
        </Typography>
      )}
    </Box>
  );
}

/** How a take is called when it is read out. */
export const nameOf = (take: TakeEntry) => `take ${take.id}${take.shown ? `, ${take.shown}` : ""}`;
