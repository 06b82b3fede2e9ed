/** Named groups of parts: one click selects them. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import ButtonBase from "@mui/material/ButtonBase";
import IconButton from "@mui/material/IconButton";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { Plus, Trash2 } from "lucide-react";
import { useMemo } from "react";
import { Rows } from "../controls/Rows";
import { Section } from "../controls/Section";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { pointer } from "../store/patch";

const ROW_HEIGHT = 40;
/** Names that a row shows of what is in a set. */
const NAMED = 4;

export function PartSets() {
  const workspace = useWorkspace();
  const sets = useScene((s) => s.part_sets);
  const parts = useScene((s) => s.parts);
  const hasSelection = useSlice((s) => s.selection.length > 0);
  const keys = useMemo(() => Object.keys(sets).sort(), [sets]);
  if (keys.length === 0 && !hasSelection) return null;
  return (
    <Section title="Part sets">
      <Rows
        label="Part sets"
        count={keys.length}
        height={ROW_HEIGHT}
        maxHeight="160px"
        keyOf={(index) => keys[index]!}
        isSelected={() => false}
        render={(index, { item }) => {
          const { name, parts: held } = sets[keys[index]!]!;
          const there = held.filter((part) => part in parts);
          const names = there.slice(0, NAMED).map((part) => parts[part]!.name);
          const more = there.length > NAMED ? ` and ${there.length - NAMED} more` : "";
          return (
            <Box sx={{ height: "100%", display: "flex", alignItems: "center" }}>
              <Box role="gridcell" sx={{ flex: 1, minWidth: 0 }}>
                <ButtonBase
                  {...item}
                  onClick={() => workspace.select(there)}
                  sx={{ width: "100%", display: "block", textAlign: "left", px: 1, borderRadius: 1 }}
                >
                  <Typography noWrap component="span" sx={{ display: "block", fontSize: 13 }}>
                    {name}
                  </Typography>
                  <Typography
                    noWrap
                    component="span"
                    color="textSecondary"
                    sx={{ display: "block", fontSize: 11.5 }}
                  >
                    {names.join(", ") + more}
                  </Typography>
                </ButtonBase>
              </Box>
              <Box role="gridcell">
                <Tooltip title="Remove">
                  <IconButton
                    size="small"
                    tabIndex={-1}
                    aria-label={`Remove ${name}`}
                    onClick={() =>
                      workspace.commit(
                        [{ op: "remove", path: pointer("part_sets", keys[index]!) }],
                        `Remove ${name}`,
                      )
                    }
                  >
                    <Trash2 size={15} />
                  </IconButton>
                </Tooltip>
              </Box>
            </Box>
          );
        }}
      />
      {hasSelection && (
        <Button
          size="small"
          startIcon={<Plus size={15} />}
          onClick={() => workspace.addSet(workspace.getState().selection)}
        >
          A set of the selection
        </Button>
      )}
    </Section>
  );
}
