/** A new order: what it is of, and its table, of which each row is on or off. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useEffect, useMemo, useState } from "react";
import { orders } from "../api/orders";
import { changed } from "../api/queries";
import type { OrderRow } from "../api/types";
import { allEditions, Combining } from "../compare/Combining";
import { duration } from "../shell/words";
import { useScene, useSlice } from "../store/context";
import { bytes, sizesIn } from "./sizes";

const TEMPLATE = "{place}-{edition}-{shot}-{light}-{width}x{height}";
const PLAN_MS = 300;

export function NewOrder({ onClose }: { onClose: () => void }) {
  const project = useSlice((s) => s.project);
  const scene = useScene((s) => s);
  const [name, setName] = useState("");
  const [chosen, setChosen] = useState(() => allEditions(scene));
  const [text, setText] = useState(`${scene.print.width}x${scene.print.height}`);
  const [template, setTemplate] = useState(TEMPLATE);
  const [rows, setRows] = useState<readonly OrderRow[]>([]);
  const [leftOut, setLeftOut] = useState<ReadonlySet<number>>(new Set());
  const [problem, setProblem] = useState("");
  const sizes = sizesIn(text);
  const choice = useMemo(
    () => ({ ...chosen, sizes: sizesIn(text) ?? [], template }),
    [chosen, text, template],
  );

  useEffect(() => {
    const rest = setTimeout(async () => {
      try {
        setRows(await orders.plan(project, choice));
        setProblem("");
      } catch (error) {
        setRows([]);
        setProblem((error as Error).message);
      }
      setLeftOut(new Set());
    }, PLAN_MS);
    return () => clearTimeout(rest);
  }, [project, choice]);

  const wanted = rows.filter((row) => !leftOut.has(row.number) && row.problem === "");
  const fresh = wanted.filter((row) => row.same === null);
  const make = async () => {
    const left = rows.filter((row) => !wanted.includes(row)).map((row) => row.number);
    try {
      await orders.create(project, { ...choice, name: name || "Order", left_out: left });
      await changed.orders(project);
      onClose();
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  const toggle = (row: number) =>
    setLeftOut((now) => new Set(now.has(row) ? [...now].filter((n) => n !== row) : [...now, row]));
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth>
      <DialogTitle>Order many pictures</DialogTitle>
      <DialogContent>
        <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 1.5, pt: 1, mb: 1.5 }}>
          <TextField size="small" label="Name" value={name} onChange={(e) => setName(e.target.value)} />
          <TextField
            size="small"
            label="Sizes"
            value={text}
            error={sizes === null}
            helperText={sizes === null ? "Such as 1920x1080, 3840x2160" : undefined}
            onChange={(e) => setText(e.target.value)}
          />
          <TextField
            size="small"
            label="Names of the files"
            value={template}
            onChange={(e) => setTemplate(e.target.value)}
            sx={{ gridColumn: "1 / -1" }}
          />
        </Box>
        <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 4 }}>
          <Combining chosen={chosen} onChange={setChosen} />
        </Box>
        {problem && (
          <Typography role="alert" variant="body2" color="error" sx={{ my: 1 }}>
            {problem}
          </Typography>
        )}
        <Rows rows={rows} leftOut={leftOut} onToggle={toggle} />
      </DialogContent>
      <DialogActions>
        <Typography variant="body2" color="textSecondary" sx={{ flex: 1, pl: 2 }}>
          {summary(wanted, fresh)}
        </Typography>
        <Button onClick={onClose}>Leave it</Button>
        <Button
          variant="contained"
          disabled={wanted.length === 0 || sizes === null}
          onClick={() => void make()}
        >
          Order {wanted.length}
        </Button>
      </DialogActions>
    </Dialog>
  );
}

function summary(wanted: readonly OrderRow[], fresh: readonly OrderRow[]): string {
  const seconds = fresh.map((row) => row.seconds);
  const known = seconds.every((each) => each !== null);
  return [
    `${fresh.length} to make`,
    wanted.length > fresh.length && `${wanted.length - fresh.length} are there already`,
    fresh.length > 0 &&
      (known ? `about ${duration(seconds.reduce<number>((a, b) => a + b!, 0))}` : "time not known yet"),
    `about ${bytes(wanted.reduce((sum, row) => sum + row.bytes, 0))}`,
  ]
    .filter(Boolean)
    .join(", ");
}

interface RowsProps {
  rows: readonly OrderRow[];
  leftOut: ReadonlySet<number>;
  onToggle: (row: number) => void;
}

function Rows({ rows, leftOut, onToggle }: RowsProps) {
  return (
    <Box
      component="table"
      aria-label="What will be made"
      sx={{ width: "100%", borderCollapse: "collapse", "& td, & th": { px: 1, py: 0.25, textAlign: "left" } }}
    >
      <thead>
        <tr>
          <th scope="col">Wanted</th>
          <th scope="col">File</th>
          <th scope="col">Size</th>
          <th scope="col">Time</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={row.number}>
            <td>
              <Checkbox
                size="small"
                checked={!leftOut.has(row.number) && row.problem === ""}
                disabled={row.problem !== ""}
                onChange={() => onToggle(row.number)}
                slotProps={{ input: { "aria-label": `Print ${row.name}` } }}
                sx={{ p: 0.25 }}
              />
            </td>
            <Box component="td" sx={{ overflowWrap: "anywhere" }}>
              {row.name}
              {row.problem && (
                <Typography variant="caption" color="error" component="p">
                  {row.problem}
                </Typography>
              )}
            </Box>
            <td>
              {row.width}×{row.height}
            </td>
            <td>{row.same !== null ? "is there" : row.seconds === null ? "–" : duration(row.seconds)}</td>
          </tr>
        ))}
      </tbody>
    </Box>
  );
}
