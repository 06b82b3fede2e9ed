/** What is done with the selected parts as wholes: moved, copied, mirrored, aligned, dropped, removed. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import ButtonGroup from "@mui/material/ButtonGroup";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import Typography from "@mui/material/Typography";
import {
  ArrowDownToLine,
  Copy,
  Crosshair,
  FolderPlus,
  FolderX,
  Grip,
  Merge,
  Move3d,
  Split,
  Trash2,
} from "lucide-react";
import { type ReactNode, useState } from "react";
import { Fold } from "../controls/Fold";
import { Quantity, type QuantityField } from "../controls/Quantity";
import { useScene, useSlice, useWorkspace } from "../store/context";
import type { Gesture } from "../store/hand";
import { reach } from "../viewport/orbit";

const KEY = "Part.arrange";
const AXES = ["x", "y", "z"] as const;
const EDGES = { low: "Low", middle: "Middle", high: "High" } as const;
const MOST_COPIES = 1000;

const START = { x: 0, y: 0, z: 0, turn: 0, size: 1, copies: 1 };
type Numbers = typeof START;

/** `group` is the one that the parts are, as a whole. */
export function Arrange({ parts, group }: { parts: string[]; group: string | null }) {
  const workspace = useWorkspace();
  const isOpen = useSlice((s) => s.unfolded[KEY] ?? false);
  const [numbers, setNumbers] = useState<Numbers>(START);
  const span = useSlice((s) => Number((2 * reach(s.committed.camera)).toPrecision(1)));
  /** A number of this panel in the hand: it is no part of the document. */
  const begin = (name: keyof Numbers) => (): Gesture<number> => {
    const before = numbers[name];
    let over = false;
    const put = (value: number) => setNumbers((now) => ({ ...now, [name]: value }));
    return {
      preview: put,
      commit: () => {
        over = true;
      },
      cancel: () => {
        over = true;
        put(before);
      },
      isOver: () => over,
    };
  };
  const length = (axis: string): QuantityField => ({
    label: `Step ${axis.toUpperCase()}`,
    unit: "m",
    soft_minimum: -span,
    soft_maximum: span,
    step: span / 1000,
    default: 0,
  });
  const offset: [number, number, number] = [numbers.x, numbers.y, numbers.z];
  const several = parts.length > 1;
  return (
    <Fold
      title="Arrange"
      summary="move, copy, mirror, align"
      isOpen={isOpen}
      onToggle={() => workspace.unfold(KEY, !isOpen)}
    >
      {AXES.map((axis) => (
        <Quantity key={axis} field={length(axis)} value={numbers[axis]} begin={begin(axis)} />
      ))}
      <Quantity
        field={{
          label: "Turn",
          unit: "°",
          minimum: -360,
          maximum: 360,
          soft_minimum: -180,
          soft_maximum: 180,
          step: 1,
          default: 0,
        }}
        value={numbers.turn}
        begin={begin("turn")}
      />
      <Quantity
        field={{
          label: "Size of all",
          unit: "×",
          minimum: 0.001,
          maximum: 1000,
          soft_minimum: 0.1,
          soft_maximum: 10,
          step: 0.01,
          scale: "logarithmic",
          default: 1,
        }}
        value={numbers.size}
        begin={begin("size")}
      />
      <Quantity
        field={{
          label: "Copies",
          unit: "",
          minimum: 1,
          maximum: MOST_COPIES,
          soft_minimum: 1,
          soft_maximum: 24,
          step: 1,
          whole: true,
          default: 1,
        }}
        value={numbers.copies}
        begin={begin("copies")}
      />
      <Line>
        <Button
          size="small"
          startIcon={<Move3d size={15} />}
          onClick={() =>
            workspace.arrange({ kind: "move", parts, offset, turn: numbers.turn, size: numbers.size })
          }
        >
          Move by that
        </Button>
        <Button
          size="small"
          startIcon={<Copy size={15} />}
          onClick={() =>
            workspace.arrange({
              kind: "duplicate",
              parts,
              count: numbers.copies,
              step: offset,
              turn: numbers.turn,
              own_materials: false,
            })
          }
        >
          Duplicate
        </Button>
      </Line>
      <Line label="Mirror along">
        <ButtonGroup size="small">
          {AXES.map((axis) => (
            <Button
              key={axis}
              aria-label={`Mirror along ${axis.toUpperCase()}`}
              onClick={() => workspace.arrange({ kind: "mirror", parts, axis })}
            >
              {axis.toUpperCase()}
            </Button>
          ))}
        </ButtonGroup>
      </Line>
      {several &&
        AXES.map((axis) => (
          <Line key={axis} label={`Align ${axis.toUpperCase()}`}>
            <ButtonGroup size="small">
              {(Object.keys(EDGES) as (keyof typeof EDGES)[]).map((to) => (
                <Button
                  key={to}
                  aria-label={`Align ${axis.toUpperCase()} ${to}`}
                  onClick={() => workspace.arrange({ kind: "align", parts, axis, to })}
                >
                  {EDGES[to]}
                </Button>
              ))}
            </ButtonGroup>
          </Line>
        ))}
      <Line>
        <Button
          size="small"
          startIcon={<ArrowDownToLine size={15} />}
          onClick={() => workspace.arrange({ kind: "drop", parts })}
        >
          To the ground
        </Button>
        <Button
          size="small"
          startIcon={<Crosshair size={15} />}
          onClick={() => workspace.arrange({ kind: "centre", parts })}
        >
          Centre
        </Button>
        <Button
          size="small"
          startIcon={<Trash2 size={15} />}
          onClick={() => workspace.arrange({ kind: "remove", parts })}
        >
          Remove
        </Button>
      </Line>
      <Together parts={parts} group={group} />
    </Fold>
  );
}

/** Parts as groups, and as what is strewn. */
function Together({ parts, group }: { parts: string[]; group: string | null }) {
  const workspace = useWorkspace();
  const groups = useScene((s) => s.part_groups);
  const last = useScene((s) => s.parts[parts.at(-1)!]?.name);
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const into = (key: string | null) => {
    setMenu(null);
    workspace.arrange({ kind: "regroup", parts, into: key });
  };
  const others = Object.entries(groups).filter(([key]) => key !== group);
  return (
    <>
      <Line>
        <Button
          size="small"
          startIcon={<FolderPlus size={15} />}
          onClick={() => workspace.arrange({ kind: "gather", parts })}
        >
          Group
        </Button>
        {group && (
          <Button
            size="small"
            startIcon={<FolderX size={15} />}
            onClick={() => workspace.arrange({ kind: "dissolve", group })}
          >
            Dissolve the group
          </Button>
        )}
        {others.length > 0 && (
          <Button size="small" aria-haspopup="menu" onClick={(event) => setMenu(event.currentTarget)}>
            Into group…
          </Button>
        )}
      </Line>
      <Menu anchorEl={menu} open={menu !== null} onClose={() => setMenu(null)}>
        <MenuItem dense onClick={() => into(null)}>
          None
        </MenuItem>
        {others.map(([key, { name }]) => (
          <MenuItem dense key={key} onClick={() => into(key)}>
            {name}
          </MenuItem>
        ))}
      </Menu>
      <Line>
        <Button
          size="small"
          startIcon={<Split size={15} />}
          title="Parts of what is connected, or of what was merged"
          onClick={() => workspace.cut("split", parts)}
        >
          Split
        </Button>
        {parts.length > 1 && (
          <Button
            size="small"
            startIcon={<Merge size={15} />}
            title="One part, of the first one's material"
            onClick={() => workspace.cut("merge", parts)}
          >
            Merge
          </Button>
        )}
      </Line>
      {parts.length > 1 && last && (
        <Line>
          <Button
            size="small"
            startIcon={<Grip size={15} />}
            title="Copies of the others on the surface of the one that was selected last"
            onClick={() =>
              workspace.arrange({ kind: "strew", parts: parts.slice(0, -1), over: parts.at(-1)! })
            }
          >
            Strew over {last}
          </Button>
        </Line>
      )}
    </>
  );
}

function Line({ label, children }: { label?: string; children: ReactNode }) {
  return (
    <Box
      sx={{
        display: "flex",
        flexWrap: "wrap",
        alignItems: "center",
        gap: 0.5,
        mt: 0.5,
        // Icons stand below one another, however short the word beside them.
        "& > .MuiButton-root": { minWidth: 0 },
      }}
    >
      {label && (
        <Typography variant="body2" color="textSecondary" sx={{ flex: 1 }}>
          {label}
        </Typography>
      )}
      {children}
    </Box>
  );
}
