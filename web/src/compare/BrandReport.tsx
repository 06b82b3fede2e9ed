/** How near parts come to a brand colour in each edition under all conditions, as seen from where one stands. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import Typography from "@mui/material/Typography";
import { useEffect, useMemo, useState } from "react";
import type { BrandColor } from "../api/types";
import { useScene, useWorkspace } from "../store/context";
import { inOrder } from "../store/order";
import { SHOT } from "../store/panes";
import type { Fidelity } from "./fidelity";

const AGAIN_MS = 150;
type Column = readonly [key: string | null, name: string];

interface Props {
  id: string;
  brand: BrandColor;
  onClose: () => void;
}

export function BrandReport({ id, brand, onClose }: Props) {
  const workspace = useWorkspace();
  const scene = useScene((s) => s);
  const [found, setFound] = useState<Record<string, Fidelity>>({});
  const editions = useMemo(
    () => columns(inOrder(scene.editions, scene.edition_order)),
    [scene.editions, scene.edition_order],
  );
  const lights = useMemo(() => columns(Object.entries(scene.conditions)), [scene.conditions]);
  const asked = editions.flatMap(([edition]) => lights.map(([conditions]) => ({ edition, conditions })));
  const next = asked.find((each) => !(nameOf(each) in found));
  useEffect(() => {
    if (!next) return;
    let gone = false;
    const rest = setTimeout(async () => {
      const answer = await workspace.askHost<Fidelity>("fidelity", SHOT, { brand: id, ...next });
      if (gone || !answer) return;
      setFound((now) => (answer.later ? { ...now } : { ...now, [nameOf(next)]: answer }));
    }, AGAIN_MS);
    return () => {
      gone = true;
      clearTimeout(rest);
    };
  }, [workspace, id, next]);
  const save = () => {
    const rows = editions.map(([edition, name]) =>
      [name, ...lights.map(([conditions]) => cell(found[nameOf({ edition, conditions })]))].join(";"),
    );
    const text = [[brand.name, ...lights.map(([, name]) => name)].join(";"), ...rows].join("\n");
    const link = document.createElement("a");
    link.href = URL.createObjectURL(new Blob([text], { type: "text/csv" }));
    link.download = "brand-colour.csv";
    link.click();
    URL.revokeObjectURL(link.href);
  };
  return (
    <Dialog open onClose={onClose} maxWidth="md">
      <DialogTitle>{brand.name} over editions and light</DialogTitle>
      <DialogContent>
        <Typography variant="body2" color="textSecondary" sx={{ mb: 1.5 }}>
          CIEDE2000 of half of what is seen of it from here, with each look of the light. Below 1 nobody sees
          it; from 5 on it is another colour.
        </Typography>
        <Box
          component="table"
          sx={{ borderCollapse: "collapse", "& th, & td": { px: 1.5, py: 0.75, textAlign: "right" } }}
        >
          <thead>
            <tr>
              <Box component="th" scope="col" sx={{ textAlign: "left !important" }}>
                Edition
              </Box>
              {lights.map(([key, name]) => (
                <th key={key ?? ""} scope="col">
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {editions.map(([edition, name]) => (
              <tr key={edition ?? ""}>
                <Box component="th" scope="row" sx={{ textAlign: "left !important", fontWeight: 400 }}>
                  {name}
                </Box>
                {lights.map(([conditions]) => {
                  const one = found[nameOf({ edition, conditions })];
                  return (
                    <Box
                      component="td"
                      key={conditions ?? ""}
                      title={one?.problem || undefined}
                      sx={{ color: (one?.typical ?? 0) >= 5 ? "#f0b7a4" : "text.primary" }}
                    >
                      {cell(one)}
                    </Box>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </Box>
      </DialogContent>
      <DialogActions>
        <Typography variant="caption" color="textSecondary" sx={{ flex: 1, pl: 2 }}>
          {next ? `${Object.keys(found).length} of ${asked.length} are measured` : ""}
        </Typography>
        <Button disabled={next !== undefined} onClick={save}>
          Save as CSV
        </Button>
        <Button variant="contained" onClick={onClose}>
          Close
        </Button>
      </DialogActions>
    </Dialog>
  );
}

const columns = (entries: [string, { name: string }][]): Column[] =>
  entries.length === 0 ? [[null, "As it is"]] : entries.map(([key, { name }]) => [key, name] as const);

const nameOf = ({ edition, conditions }: { edition: string | null; conditions: string | null }) =>
  `${edition ?? ""}/${conditions ?? ""}`;

function cell(one: Fidelity | undefined): string {
  if (!one) return "…";
  if (one.problem) return "does not go";
  return one.typical === null ? "out of view" : one.typical.toFixed(1);
}
