/** A pane's own bar: which view it is, the way of looking, and what is drawn over it. */
import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import IconButton from "@mui/material/IconButton";
import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import {
  Crosshair,
  Grid3x3,
  Lock,
  LockOpen,
  Maximize2,
  Minimize2,
  Move,
  Rotate3d,
  Scaling,
  ScanSearch,
  X,
} from "lucide-react";
import { memo, type ReactNode } from "react";
import { action, hint } from "../actions/registry";
import { ways } from "../api/fields.gen";
import type { Way } from "../socket/panes";
import { useSlice, useWorkspace } from "../store/context";
import { nameOf, type PaneNumber, SHOT } from "../store/panes";
import { GuidesButton } from "./Guides";

export const PaneBar = memo(function PaneBar({ number }: { number: PaneNumber }) {
  const workspace = useWorkspace();
  const way = useSlice((s) => s.panes[number]?.way ?? "proof");
  const wire = useSlice((s) => s.panes[number]?.wire ?? false);
  const focusPlane = useSlice((s) => s.panes[number]?.focusPlane ?? false);
  const loupe = useSlice((s) => s.panes[number]?.loupe ?? null);
  const magnifier = useSlice((s) => s.panes[number]?.magnifier ?? null);
  const several = useSlice((s) => s.panes.length > 1);
  const maximised = useSlice((s) => s.maximised !== null);
  const locked = useSlice((s) => s.locked);
  const hasSubject = useSlice((s) => s.selection.length > 0 || s.light !== null);
  const isPair = useSlice((s) => Boolean(s.panes[number]?.under));
  const name = nameOf(number, isPair);
  return (
    <Box
      role="toolbar"
      aria-label={`${name} view`}
      onPointerDown={() => workspace.set({ active: number })}
      sx={{
        position: "absolute",
        top: 8,
        left: 8,
        display: "flex",
        alignItems: "center",
        gap: 0.25,
        px: 0.75,
        borderRadius: 1.5,
        bgcolor: "rgba(31,31,31,0.82)",
      }}
    >
      <Typography variant="caption" sx={{ fontWeight: 600, px: 0.5 }}>
        {name}
      </Typography>
      <Select
        variant="standard"
        disableUnderline
        value={way}
        inputProps={{ "aria-label": `Way of looking, ${name.toLowerCase()} view` }}
        onChange={(event) => workspace.setPane(number, { way: event.target.value as Way })}
        sx={{ fontSize: 12, "& .MuiSelect-select": { py: 0.5, pl: 0.5 } }}
      >
        {(Object.entries(ways) as [Way, string][]).map(([key, label]) => (
          <MenuItem key={key} value={key} dense>
            {label}
          </MenuItem>
        ))}
      </Select>
      <Toggle
        title={hint("wire")}
        name="Lines of the mesh"
        on={wire}
        onClick={() => workspace.setPane(number, { wire: !wire })}
      >
        <Grid3x3 size={14} />
      </Toggle>
      <Toggle
        title={hint("focus-plane")}
        name="Show the plane of focus"
        on={focusPlane}
        onClick={() => workspace.setPane(number, { focusPlane: !focusPlane })}
      >
        <Crosshair size={14} />
      </Toggle>
      <Toggle
        title={loupe ? hint("loupe-off") : hint("loupe")}
        name={loupe ? "Release the loupe" : "Loupe"}
        on={loupe !== null}
        onClick={() => (loupe ? workspace.setPane(number, { loupe: null }) : action("loupe").run(workspace))}
      >
        <ScanSearch size={14} />
      </Toggle>
      {number === SHOT && <GuidesButton />}
      {hasSubject && <HandleButtons />}
      {magnifier && (
        <Tooltip title={hint("whole")}>
          <ButtonBase
            aria-label="Stop magnifying"
            onClick={() => workspace.setPane(number, { magnifier: null })}
            sx={{
              px: 0.75,
              borderRadius: 1,
              fontSize: 12,
              color: "primary.main",
              fontVariantNumeric: "tabular-nums",
            }}
          >
            {magnifier.factor.toPrecision(2)} ×
          </ButtonBase>
        </Tooltip>
      )}
      {number === SHOT && several && (
        <Toggle
          title={locked ? "Unlock the shot's camera" : "Lock the shot's camera"}
          name={locked ? "Unlock the shot" : "Lock the shot"}
          on={locked}
          onClick={() => workspace.set({ locked: !locked })}
        >
          {locked ? <Lock size={14} /> : <LockOpen size={14} />}
        </Toggle>
      )}
      {several && (
        <Toggle
          title={hint("maximise")}
          name={maximised ? "All views" : `Maximise the ${name.toLowerCase()} view`}
          on={false}
          onClick={() => workspace.maximise(maximised ? null : number)}
        >
          {maximised ? <Minimize2 size={14} /> : <Maximize2 size={14} />}
        </Toggle>
      )}
      {number !== SHOT && (
        <Toggle
          title={isPair ? "Close this view" : hint("second")}
          name={`Close the ${name.toLowerCase()} view`}
          on={false}
          onClick={() => workspace.closeBeside(number)}
        >
          <X size={14} />
        </Toggle>
      )}
    </Box>
  );
});

const HANDLES = [
  ["move", "Move", Move],
  ["turn", "Turn", Rotate3d],
  ["scale", "Scale", Scaling],
] as const;

/** Handles for what is selected: the same that keys bring. */
function HandleButtons() {
  const workspace = useWorkspace();
  const held = useSlice((s) => s.handle);
  return HANDLES.map(([kind, name, Icon]) => (
    <Toggle
      key={kind}
      title={hint(kind)}
      name={`${name} by handles`}
      on={held === kind}
      onClick={() => action(kind).run(workspace)}
    >
      <Icon size={14} />
    </Toggle>
  ));
}

interface ToggleProps {
  title: string;
  name: string;
  on: boolean;
  onClick: () => void;
  children: ReactNode;
}

function Toggle({ title, name, on, onClick, children }: ToggleProps) {
  return (
    <Tooltip title={title}>
      <IconButton
        size="small"
        aria-label={name}
        aria-pressed={on}
        onClick={onClick}
        sx={{ p: 0.6, color: on ? "primary.main" : "text.secondary" }}
      >
        {children}
      </IconButton>
    </Tooltip>
  );
}
