/** A newer version of the asset: what it would make of each part, before it takes the place of the one that is there. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import Typography from "@mui/material/Typography";
import { RefreshCw } from "lucide-react";
import { useRef, useState } from "react";
import type { SwapOffer } from "../api/types";
import { FileInput } from "../controls/FileInput";
import { Rows } from "../controls/Rows";
import { ASSET_FILES } from "../home/ImportPad";
import { useSlice, useWorkspace } from "../store/context";
import { bring } from "../store/jobs";
import { takeOffer } from "./taking";

const ROW_HEIGHT = 30;
/** In the order in which they matter to whoever decides. */
const STATES = {
  gone: "gone",
  new: "new",
  changed: "other shape",
  moved: "moved",
  same: "as before",
} as const;
type State = keyof typeof STATES;

export function Swap() {
  const workspace = useWorkspace();
  const project = useSlice((s) => s.project);
  const input = useRef<HTMLInputElement>(null);
  const [offer, setOffer] = useState<{ table: SwapOffer["table"]; upload: number } | null>(null);
  const take = (matches: Record<string, string>) => {
    if (!offer) return;
    setOffer(null);
    void takeOffer(workspace, offer.upload, matches);
  };
  return (
    <>
      <Button
        fullWidth
        size="small"
        variant="outlined"
        startIcon={<RefreshCw size={15} />}
        onClick={() => input.current?.click()}
        sx={{ mb: 1.5 }}
      >
        Bring in a newer version
      </Button>
      <FileInput
        ref={input}
        label="File of the newer version"
        accept={ASSET_FILES}
        onFile={(file) =>
          bring("asset", file, {
            swaps: project,
            onOffer: ({ table }, upload) => setOffer({ table, upload }),
            onProblem: (text) => workspace.notify({ severity: "error", text }),
          })
        }
      />
      {offer && <Offer table={offer.table} onTake={take} onLeave={() => setOffer(null)} />}
    </>
  );
}

interface OfferProps {
  table: SwapOffer["table"];
  /** With keys of parts that are gone by those of new ones. */
  onTake: (matches: Record<string, string>) => void;
  onLeave: () => void;
}

function Offer({ table, onTake, onLeave }: OfferProps) {
  const [matches, setMatches] = useState<Record<string, string>>({});
  const order = Object.keys(STATES);
  const rows = [...table].sort((a, b) => order.indexOf(a.state) - order.indexOf(b.state));
  const nameOf = (key: string | undefined) => table.find((row) => row.key === key)?.name;
  /** The new part that takes the place of one that is gone. */
  const successor = (gone: string) => Object.keys(matches).find((key) => matches[key] === gone);
  const left = rows.filter((row) => row.state === "new" && !(row.key in matches));
  const match = (gone: string, fresh: string | null) =>
    setMatches((now) => ({
      ...Object.fromEntries(Object.entries(now).filter(([, old]) => old !== gone)),
      ...(fresh !== null && { [fresh]: gone }),
    }));
  const counts = (Object.keys(STATES) as State[]).flatMap((state) => {
    const settled = (key: string) => key in matches || successor(key) !== undefined;
    const count = rows.filter((row) => row.state === state && !settled(row.key)).length;
    return count > 0 ? `${count} ${STATES[state]}` : [];
  });
  const byHand = Object.keys(matches).length;
  if (byHand > 0) counts.unshift(`${byHand} matched by hand`);
  return (
    <Dialog open onClose={onLeave} aria-labelledby="newer-version" maxWidth="xs" fullWidth>
      <DialogTitle id="newer-version">A newer version</DialogTitle>
      <DialogContent>
        <Typography variant="body2" color="textSecondary" sx={{ mb: 1 }}>
          {counts.join(" · ")}
        </Typography>
        <Rows
          label="Parts of the newer version"
          count={rows.length}
          height={ROW_HEIGHT}
          maxHeight="45vh"
          keyOf={(index) => rows[index]!.key}
          isSelected={() => false}
          render={(index, { item }) => (
            <Box
              {...item}
              role="gridcell"
              sx={{ height: "100%", display: "flex", alignItems: "center", gap: 1, px: 1 }}
            >
              <Typography noWrap variant="body2" sx={{ flex: 1 }}>
                {rows[index]!.name}
              </Typography>
              {rows[index]!.state === "gone" && (left.length > 0 || successor(rows[index]!.key)) ? (
                <Successor
                  name={rows[index]!.name}
                  chosen={nameOf(successor(rows[index]!.key)) ?? null}
                  fresh={left}
                  onChoose={(key) => match(rows[index]!.key, key)}
                />
              ) : (
                <Typography
                  variant="caption"
                  sx={{ color: rows[index]!.state === "gone" ? "warning.main" : "text.secondary" }}
                >
                  {rows[index]!.key in matches
                    ? `is ${nameOf(matches[rows[index]!.key])}`
                    : STATES[rows[index]!.state]}
                </Typography>
              )}
            </Box>
          )}
        />
        <Typography variant="caption" color="textSecondary" component="p" sx={{ mt: 1 }}>
          Names, materials, sets and places that were given by hand stay. Undo brings the version before back.
        </Typography>
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={onLeave}>
          Leave it
        </Button>
        <Button variant="contained" onClick={() => onTake(matches)}>
          Take it
        </Button>
      </DialogActions>
    </Dialog>
  );
}

interface SuccessorProps {
  name: string;
  /** Name of the part that it is now. */
  chosen: string | null;
  fresh: SwapOffer["table"];
  onChoose: (key: string | null) => void;
}

/** Says of a part that is gone which new one it is. */
function Successor({ name, chosen, fresh, onChoose }: SuccessorProps) {
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const choose = (key: string | null) => {
    setMenu(null);
    onChoose(key);
  };
  return (
    <>
      <Button
        size="small"
        aria-haspopup="menu"
        aria-label={`Which part is ${name} now`}
        onClick={(event) => setMenu(event.currentTarget)}
        sx={{ minWidth: 0, mr: -0.625 }}
      >
        {chosen ? `is ${chosen}` : "gone, or …"}
      </Button>
      <Menu anchorEl={menu} open={menu !== null} onClose={() => setMenu(null)}>
        <MenuItem dense onClick={() => choose(null)}>
          It is gone
        </MenuItem>
        {fresh.map((row) => (
          <MenuItem dense key={row.key} onClick={() => choose(row.key)}>
            It is {row.name}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
