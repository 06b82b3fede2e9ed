/** Showings of the open project: links that are out, how far their pictures are, and a new one. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import LinearProgress from "@mui/material/LinearProgress";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { Link, MoreHorizontal, Plus } from "lucide-react";
import { useState } from "react";
import { changed, useChange, useShowings } from "../api/queries";
import { showings, showingUrl } from "../api/showings";
import type { ShowingEntry } from "../api/types";
import { Section } from "../controls/Section";
import { useSlice, useWorkspace } from "../store/context";
import { NewShowing } from "./NewShowing";

/** The last day of a showing; its year is said where it is not this one. */
function dayOf(ends: string): string {
  const day = new Date(ends);
  const year = day.getFullYear() === new Date().getFullYear() ? {} : ({ year: "numeric" } as const);
  return day.toLocaleDateString("en", { day: "numeric", month: "long", ...year });
}

export function ShowingSection() {
  const project = useSlice((s) => s.project);
  const there = useShowings(project).data ?? [];
  const [making, setMaking] = useState(false);
  return (
    <Section title="Showings">
      {there.map((each) => (
        <OneShowing key={each.id} showing={each} />
      ))}
      <Button
        fullWidth
        size="small"
        variant="outlined"
        startIcon={<Plus size={15} />}
        onClick={() => setMaking(true)}
      >
        Make a showing
      </Button>
      {making && <NewShowing onClose={() => setMaking(false)} />}
    </Section>
  );
}

const isOver = (showing: ShowingEntry) =>
  showing.withdrawn !== null || new Date(showing.ends).getTime() < Date.now();

function stateOf(showing: ShowingEntry): string {
  if (showing.withdrawn !== null) return "withdrawn";
  if (isOver(showing)) return "ended";
  const came = showing.visitors === 1 ? "1 visitor" : `${showing.visitors} visitors`;
  return `until ${dayOf(showing.ends)}, ${came}${showing.has_password ? ", password" : ""}`;
}

function OneShowing({ showing }: { showing: ShowingEntry }) {
  const workspace = useWorkspace();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const fail = (error: Error) => workspace.notify({ severity: "error", text: error.message });
  const change = useChange(
    (run: () => Promise<unknown>) => run(),
    () => changed.showings(workspace.getState().project),
    fail,
  );
  const link = async () => {
    try {
      await navigator.clipboard.writeText(showingUrl(showing));
      workspace.notify({ severity: "info", text: `The link of ${showing.name} is copied.` });
    } catch {
      workspace.notify({ severity: "info", text: `The link of ${showing.name}: ${showingUrl(showing)}` });
    }
  };
  const choose = (run: () => Promise<unknown>) => {
    setAnchor(null);
    change.mutate(run);
  };
  const save = (form: "page" | "folder") => choose(() => showings.file(showing.id, form));
  const over = isOver(showing);
  return (
    <Box role="group" aria-label={`Showing ${showing.name}`} sx={{ mb: 1 }}>
      <Box sx={{ display: "flex", alignItems: "center" }}>
        <Box sx={{ flex: 1, minWidth: 0 }}>
          <Typography variant="body2" noWrap>
            {showing.name}
          </Typography>
          <Typography variant="caption" color="textSecondary" noWrap component="p">
            {stateOf(showing)}
          </Typography>
        </Box>
        {!over && (
          <Tooltip title="Copy the link">
            <IconButton
              size="small"
              aria-label={`Copy the link of ${showing.name}`}
              onClick={() => void link()}
            >
              <Link size={15} />
            </IconButton>
          </Tooltip>
        )}
        <IconButton
          size="small"
          aria-label={`More of ${showing.name}`}
          onClick={(event) => setAnchor(event.currentTarget)}
        >
          <MoreHorizontal size={15} />
        </IconButton>
      </Box>
      {showing.pictures < showing.wanted && !over && showing.problems.length === 0 && (
        <Tooltip title={`${showing.pictures} of ${showing.wanted} pictures are made`}>
          <LinearProgress
            variant="determinate"
            aria-label={`Pictures of ${showing.name}`}
            value={(100 * showing.pictures) / showing.wanted}
          />
        </Tooltip>
      )}
      {showing.problems.map((problem) => (
        <Typography key={problem} variant="caption" color="error" component="p">
          A picture could not be made: {problem}
        </Typography>
      ))}
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {!over && (
          <MenuItem component="a" href={showingUrl(showing)} target="_blank" onClick={() => setAnchor(null)}>
            Open its page
          </MenuItem>
        )}
        <MenuItem disabled={showing.pictures === 0} onClick={() => save("page")}>
          Save as one file
        </MenuItem>
        <MenuItem disabled={showing.pictures === 0} onClick={() => save("folder")}>
          Save as a folder
        </MenuItem>
        {showing.problems.length > 0 && (
          <MenuItem onClick={() => choose(() => showings.again(showing.id))}>Try the others again</MenuItem>
        )}
        {!over && (
          <MenuItem onClick={() => choose(() => showings.withdraw(showing.id))}>Withdraw the link</MenuItem>
        )}
        <MenuItem onClick={() => choose(() => showings.remove(showing.id))}>Remove</MenuItem>
      </Menu>
    </Box>
  );
}
