/** The parts of the asset, in their groups: chosen, hidden, shown and named; any number of them. */
import IconButton from "@mui/material/IconButton";
import Typography from "@mui/material/Typography";
import { ChevronDown, ChevronRight } from "lucide-react";
import { memo, useCallback, useMemo, useRef, useState } from "react";
import { setVisible } from "../actions/registry";
import type { Part } from "../api/types";
import { isFound, useFinding } from "../controls/finding";
import { type RowHandles, Rows } from "../controls/Rows";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { above } from "../store/groups";
import { pointer, replace } from "../store/patch";
import { EntryRow, type Press } from "./EntryRow";
import { type TreeRow, treeRows } from "./tree";

const ROW_HEIGHT = 40;
/** Below it lie the sets of parts and the field for another asset. */
const MAX_HEIGHT = "max(200px, calc(100vh - 480px))";
/** With more parts than this groups begin closed. */
const OPEN_UP_TO = 40;

/** Names that several parts have. */
function namesShared(parts: Record<string, Part>): Set<string> {
  const seen = new Set<string>();
  const shared = new Set<string>();
  for (const { name } of Object.values(parts)) (seen.has(name) ? shared : seen).add(name);
  return shared;
}

/** The database does not keep the order of keys; the asset's own order does not change. */
function useOrdered(query: string): string[] {
  const parts = useScene((s) => s.parts);
  return useMemo(() => {
    const found = Object.entries(parts).filter(([, part]) => isFound(part.name, query));
    const place = (part: Part) => (part.form ? Number.MAX_SAFE_INTEGER : part.mesh);
    return found
      .sort(
        ([a, one], [b, other]) => place(one) - place(other) || a.localeCompare(b, "en", { numeric: true }),
      )
      .map(([key]) => key);
  }, [parts, query]);
}

/** The rows of the tree, and a way to open and close a group. */
function useTree(query: string): {
  rows: TreeRow[];
  isClosed: (group: string) => boolean;
  turn: (group: string) => void;
} {
  const parts = useScene((s) => s.parts);
  const part_groups = useScene((s) => s.part_groups);
  const ordered = useOrdered(query);
  const [turned, setTurned] = useState<ReadonlySet<string>>(new Set());
  const startClosed = Object.keys(parts).length > OPEN_UP_TO;
  const isClosed = useCallback((group: string) => turned.has(group) !== startClosed, [turned, startClosed]);
  const rows = useMemo(
    () =>
      // What is looked for is found wherever it hangs.
      treeRows({ parts, part_groups: query ? {} : part_groups }, ordered, isClosed),
    [parts, part_groups, ordered, isClosed, query],
  );
  const turn = useCallback(
    (group: string) =>
      setTurned((now) => new Set(now.has(group) ? [...now].filter((key) => key !== group) : [...now, group])),
    [],
  );
  return { rows, isClosed, turn };
}

export function PartsList({ maxHeight = MAX_HEIGHT }: { maxHeight?: string }) {
  const workspace = useWorkspace();
  const parts = useScene((s) => s.parts);
  const groups = useScene((s) => s.part_groups);
  const selection = useSlice((s) => s.selection);
  const { query } = useFinding();
  const { rows, isClosed, turn } = useTree(query);
  const selected = useMemo(() => new Set(selection), [selection]);
  const shared = useMemo(() => namesShared(parts), [parts]);
  const anchor = useRef<number>(-1);
  const keysOf = (row: TreeRow) => (row.kind === "group" ? row.parts : [row.key]);
  const isSelected = (row: TreeRow) => keysOf(row).every((key) => selected.has(key));
  const pick = useCallback(
    (index: number, press: Press) => {
      const keys = (row: TreeRow) => (row.kind === "group" ? row.parts : [row.key]);
      const { selection: now } = workspace.getState();
      const here = keys(rows[index]!);
      const [from, to] = [anchor.current, index].sort((a, b) => a - b) as [number, number];
      if (press.shiftKey && from >= 0) workspace.select([...new Set(rows.slice(from, to + 1).flatMap(keys))]);
      else if (press.ctrlKey || press.metaKey) workspace.select(here, "add");
      else workspace.select(now.length === here.length && here.every((key) => now.includes(key)) ? [] : here);
      if (!press.shiftKey) anchor.current = index;
    },
    [workspace, rows],
  );
  const reveal = useMemo(() => {
    const last = selection.at(-1) ?? "";
    const way = [last, ...above(groups, parts[last]?.group ?? null)];
    const index = way.map((key) => rows.findIndex((row) => row.key === key)).find((at) => at >= 0);
    return index ?? -1;
  }, [rows, selection, groups, parts]);
  if (rows.length === 0)
    return (
      <Typography variant="body2" color="textSecondary">
        {query ? `No part is called “${query}”.` : "There are no parts."}
      </Typography>
    );
  return (
    <Rows
      label="Parts"
      count={rows.length}
      height={ROW_HEIGHT}
      keyOf={(index) => `${rows[index]!.kind}/${rows[index]!.key}`}
      isSelected={(index) => isSelected(rows[index]!)}
      render={(index, handles) => {
        const row = rows[index]!;
        const common = {
          id: row.key,
          index,
          depth: row.depth,
          isSelected: isSelected(row),
          handles,
          onPick: pick,
        };
        return row.kind === "group" ? (
          <GroupRow {...common} inside={row.parts} isClosed={isClosed(row.key)} onTurn={turn} />
        ) : (
          <PartRow {...common} sharesName={shared.has(parts[row.key]!.name)} />
        );
      }}
      maxHeight={maxHeight}
      reveal={reveal}
    />
  );
}

interface RowProps {
  id: string;
  index: number;
  depth: number;
  isSelected: boolean;
  handles: RowHandles;
  /** A press; with Shift all from the last to this one, with Ctrl one more. */
  onPick: (index: number, press: Press) => void;
}

/** `sharesName`: others are called alike, its key tells it from them. */
const PartRow = memo(function PartRow({ sharesName, ...row }: RowProps & { sharesName: boolean }) {
  const workspace = useWorkspace();
  const part = useScene((s) => s.parts[row.id]);
  const material = useScene((s) => s.materials[part?.material ?? ""]?.name);
  const over = useScene((s) => s.parts[part?.strewn?.over ?? ""]?.name);
  if (!part) return null;
  const note = over
    ? `${material} · over ${over}`
    : sharesName
      ? `${material} · ${row.id}`
      : (material ?? "");
  return (
    <EntryRow
      {...row}
      section="parts"
      name={part.name}
      note={note}
      isVisible={part.visible}
      onPick={(press) => row.onPick(row.index, press)}
      onShow={(visible) =>
        setVisible(workspace, [row.id], visible, `${visible ? "Show" : "Hide"} ${part.name}`)
      }
    />
  );
});

interface GroupRowProps extends RowProps {
  inside: string[];
  isClosed: boolean;
  onTurn: (group: string) => void;
}

function GroupRow({ inside, isClosed, onTurn, ...row }: GroupRowProps) {
  const workspace = useWorkspace();
  const name = useScene((s) => s.part_groups[row.id]?.name ?? "");
  const isShown = useScene((s) => s.part_groups[row.id]?.visible ?? true);
  const isVisible = useScene((s) => isShown && inside.some((key) => s.parts[key]?.visible));
  const show = (visible: boolean) => {
    const label = `${visible ? "Show" : "Hide"} ${name}`;
    // What is out of sight as a whole comes back as a whole: its parts are as they were.
    if (isShown) setVisible(workspace, inside, visible, label);
    else workspace.commit([replace(pointer("part_groups", row.id, "visible"), visible)], label);
  };
  const verb = isClosed ? "Open" : "Close";
  const Chevron = isClosed ? ChevronRight : ChevronDown;
  return (
    <EntryRow
      {...row}
      section="part_groups"
      name={name}
      note={inside.length === 1 ? "1 part" : `${inside.length} parts`}
      isVisible={isVisible}
      lead={
        <IconButton
          size="small"
          tabIndex={-1}
          aria-label={`${verb} ${name}`}
          aria-expanded={!isClosed}
          onClick={() => onTurn(row.id)}
          sx={{ p: 0.25 }}
        >
          <Chevron size={15} />
        </IconButton>
      }
      onPick={(press) => row.onPick(row.index, press)}
      onShow={show}
    />
  );
}
