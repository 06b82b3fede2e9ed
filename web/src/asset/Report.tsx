/** The import report: what is odd about the asset, where it is to be seen, and a repair where there is one. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { Check } from "lucide-react";
import { faults, fileUnits } from "../api/fields.gen";
import type { Finding, Operation, Scene } from "../api/types";
import { Fold } from "../controls/Fold";
import { valueAt } from "../controls/fields";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { isSame } from "../store/patch";

const KEY = "Asset.report";
const spaced = (count: number) => count.toLocaleString("en").replaceAll(",", " ");

/** What of a repair is still to be done, of what is still there. */
export function outstanding(scene: Scene, { repair }: Finding): Operation[] {
  return (repair ?? []).filter(({ op, path, value }) => {
    const place = path.split("/").slice(1);
    if (op === "remove") return valueAt(scene, place) !== undefined;
    return valueAt(scene, place.slice(0, 2)) !== undefined && !isSame(valueAt(scene, place), value);
  });
}

export function Report() {
  const workspace = useWorkspace();
  const report = useSlice((s) => s.report);
  const notes = useSlice((s) => s.problems);
  const chosen = useSlice((s) => s.unfolded[KEY]);
  const count = report.length + notes.length;
  if (count === 0) return null;
  const isOpen = chosen ?? report.some((finding) => finding.unit !== null);
  return (
    <Fold
      title="Import report"
      summary={count === 1 ? "1 item" : `${spaced(count)} items`}
      isOpen={isOpen}
      onToggle={() => workspace.unfold(KEY, !isOpen)}
    >
      <Box
        component="ul"
        sx={{ listStyle: "none", m: 0, p: 0, maxHeight: 320, overflowY: "auto", scrollbarWidth: "thin" }}
      >
        {report.map((finding) => (
          <Item key={finding.kind} finding={finding} />
        ))}
        {notes.map((text) => (
          <Typography key={text} component="li" variant="body2" color="textSecondary" sx={{ py: 0.5 }}>
            {text}
          </Typography>
        ))}
      </Box>
    </Fold>
  );
}

function Item({ finding }: { finding: Finding }) {
  const workspace = useWorkspace();
  const there = useScene((s) => finding.parts.filter((key) => key in s.parts).length);
  const left = useScene((s) => outstanding(s, finding).length);
  const scale = useScene((s) => s.asset?.scale);
  const { unit, text, hint, count, repair_label: label } = finding;
  const word = Object.entries(fileUnits).find(([, metres]) => metres === unit)?.[0];
  const fault = faults.find((kind) => kind === finding.kind) ?? null;
  const isShown = useSlice((s) => fault !== null && s.panes[SHOT]?.fault === fault);
  const show = () => {
    const { parts } = workspace.getState().scene;
    const keys = finding.parts.filter((key) => key in parts);
    workspace.select(keys);
    workspace.setPane(SHOT, { fault: isShown ? null : fault });
    if (!isShown) workspace.frameParts(SHOT, keys);
  };
  return (
    <Box
      component="li"
      sx={{ py: 0.75, borderTop: "1px solid", borderColor: "divider", "&:first-of-type": { border: 0 } }}
    >
      <Box sx={{ display: "flex", gap: 1 }}>
        <Typography variant="body2" sx={{ flex: 1 }}>
          {text}
        </Typography>
        {count > 0 && (
          <Typography variant="body2" sx={{ fontVariantNumeric: "tabular-nums" }}>
            {spaced(count)}
          </Typography>
        )}
      </Box>
      <Typography variant="caption" color="textSecondary" component="p">
        {hint}
      </Typography>
      <Box
        sx={{
          display: "flex",
          gap: 1,
          alignItems: "center",
          mt: 0.25,
          ml: -0.75,
          "& button": { minWidth: 0, px: 0.75 },
        }}
      >
        {there > 0 && (
          <Button size="small" onClick={show} aria-pressed={fault ? isShown : undefined}>
            {isShown ? "Hide" : "Show"}
          </Button>
        )}
        {finding.repair && left > 0 && (
          <Button
            size="small"
            onClick={() => workspace.commit(outstanding(workspace.getState().committed, finding), label)}
          >
            {label}
          </Button>
        )}
        {unit !== null && scale !== unit && (
          <Button size="small" onClick={() => workspace.arrange({ kind: "stand", scale: unit, up: null })}>
            Take them as {word}
          </Button>
        )}
        {((finding.repair && left === 0) || (unit !== null && scale === unit)) && (
          <Typography
            variant="caption"
            sx={{ display: "flex", alignItems: "center", gap: 0.5, color: "success.main" }}
          >
            <Check size={13} /> Done
          </Typography>
        )}
      </Box>
    </Box>
  );
}
