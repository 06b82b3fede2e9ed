/** The parts of the asset: chosen, hidden and shown; any number of them. */
import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import IconButton from "@mui/material/IconButton";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { Eye, EyeOff } from "lucide-react";
import { memo, useCallback, useMemo, useRef, useState } from "react";
import type { Part } from "../api/types";
import { isFound, useFinding } from "../controls/finding";
import { type RowHandles, Rows } from "../controls/Rows";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { pointer, replace } from "../store/patch";
import { PartName } from "./PartName";

const ROW_HEIGHT = 40;
/** Below it lie the sets of parts and the field for another asset. */
const MAX_HEIGHT = "max(200px, calc(100vh - 480px))";

/** Names that several parts have. */
function namesShared(parts: Record<string, Part>): Set<string> {
  const seen = new Set<string>();
  const shared = new Set<string>();
  for (const { name } of Object.values(parts)) (seen.has(name) ? shared : seen).add(name);
  return shared;
}

export function PartsList({ maxHeight = MAX_HEIGHT }: { maxHeight?: string }) {
  const workspace = useWorkspace();
  const parts = useScene((s) => s.parts);
  const selection = useSlice((s) => s.selection);
  const { query } = useFinding();
  // The database does not keep the order of keys; the asset's own order does not change.
  const ordered = useMemo(() => {
    const found = Object.entries(parts).filter(([, part]) => isFound(part.name, query));
    const place = (part: Part) => (part.form ? Number.MAX_SAFE_INTEGER : part.mesh);
    return found
      .sort(
        ([a, one], [b, other]) => place(one) - place(other) || a.localeCompare(b, "en", { numeric: true }),
      )
      .map(([key]) => key);
  }, [parts, query]);
  const selected = useMemo(() => new Set(selection), [selection]);
  const shared = useMemo(() => namesShared(parts), [parts]);
  const anchor = useRef<string | null>(null);
  const pick = useCallback(
    (id: string, how: Pick<MouseEvent, "shiftKey" | "ctrlKey" | "metaKey">) => {
      const { selection: now } = workspace.getState();
      const [from, to] = [ordered.indexOf(anchor.current ?? ""), ordered.indexOf(id)].sort((a, b) => a - b);
      if (how.shiftKey && from! >= 0) workspace.select(ordered.slice(from, to! + 1));
      else if (how.ctrlKey || how.metaKey) workspace.select([id], "add");
      else workspace.select(now.length === 1 && now[0] === id ? [] : [id]);
      if (!how.shiftKey) anchor.current = id;
    },
    [workspace, ordered],
  );
  if (ordered.length === 0)
    return (
      <Typography variant="body2" color="textSecondary">
        {query ? `No part is called “${query}”.` : "There are no parts."}
      </Typography>
    );
  return (
    <Rows
      label="Parts"
      count={ordered.length}
      height={ROW_HEIGHT}
      keyOf={(index) => ordered[index]!}
      isSelected={(index) => selected.has(ordered[index]!)}
      render={(index, handles) => (
        <PartRow
          id={ordered[index]!}
          isSelected={selected.has(ordered[index]!)}
          sharesName={shared.has(parts[ordered[index]!]!.name)}
          handles={handles}
          onPick={pick}
        />
      )}
      maxHeight={maxHeight}
      reveal={ordered.indexOf(selection.at(-1) ?? "")}
    />
  );
}

interface PartRowProps {
  id: string;
  isSelected: boolean;
  /** Others are called alike: its key tells it from them. */
  sharesName: boolean;
  handles: RowHandles;
  /** A press; with Shift all from the last to this one, with Ctrl one more. */
  onPick: (id: string, how: Pick<MouseEvent, "shiftKey" | "ctrlKey" | "metaKey">) => void;
}

const PartRow = memo(function PartRow({ id, isSelected, sharesName, handles, onPick }: PartRowProps) {
  const workspace = useWorkspace();
  const [isNamed, setNamed] = useState(false);
  const part = useScene((s) => s.parts[id]);
  const material = useScene((s) => s.materials[part?.material ?? ""]?.name);
  if (!part) return null;
  const verb = part.visible ? "Hide" : "Show";
  return (
    <Box
      sx={{
        height: "100%",
        display: "flex",
        alignItems: "center",
        borderRadius: 1,
        borderLeft: "3px solid",
        borderColor: isSelected ? "primary.main" : "transparent",
        bgcolor: isSelected ? "rgba(185,120,171,0.16)" : "transparent",
        "&:hover": { bgcolor: "action.hover" },
      }}
    >
      <Box role="gridcell" sx={{ flex: 1, minWidth: 0 }}>
        {isNamed && <PartName id={id} name={part.name} onDone={() => setNamed(false)} />}
        <ButtonBase
          {...handles.item}
          aria-pressed={isSelected}
          onClick={(event) => onPick(id, event)}
          onDoubleClick={() => {
            workspace.select([id]);
            setNamed(true);
          }}
          onKeyDown={(event) => {
            if (event.key === "F2") setNamed(true);
          }}
          sx={{
            width: "100%",
            display: isNamed ? "none" : "block",
            textAlign: "left",
            px: 1,
            py: 0.25,
            opacity: part.visible ? 1 : 0.55,
          }}
        >
          <Typography noWrap component="span" sx={{ display: "block", fontSize: 13, lineHeight: 1.35 }}>
            {part.name}
          </Typography>
          <Typography
            noWrap
            component="span"
            color="textSecondary"
            sx={{ display: "block", fontSize: 11.5, lineHeight: 1.3 }}
          >
            {sharesName ? `${material} · ${id}` : material}
          </Typography>
        </ButtonBase>
      </Box>
      <Box role="gridcell">
        <Tooltip title={verb}>
          <IconButton
            size="small"
            tabIndex={-1}
            aria-label={`${verb} ${part.name}`}
            onClick={() =>
              workspace.commit(
                [replace(pointer("parts", id, "visible"), !part.visible)],
                `${verb} ${part.name}`,
              )
            }
          >
            {part.visible ? <Eye size={15} /> : <EyeOff size={15} />}
          </IconButton>
        </Tooltip>
      </Box>
    </Box>
  );
});
