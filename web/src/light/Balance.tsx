/** Balance: the light groups as faders of the finished picture, with their share of its light. No ray is traced. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useMemo } from "react";
import { BoundColor, BoundQuantity } from "../controls/bound";
import { Fold } from "../controls/Fold";
import { described } from "../controls/fields";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { pointer } from "../store/patch";
import type { Shares } from "./useShares";

const KEY = "light.balance";
const MEBIBYTE = 2 ** 20;

export function Balance({ shares, bytes }: Shares) {
  const workspace = useWorkspace();
  const isOpen = useSlice((s) => s.unfolded[KEY] ?? false);
  const balance = useScene((s) => s.balance ?? {});
  const touched = Object.keys(balance).length;
  return (
    <Fold
      title="Balance"
      summary={touched > 0 ? `${touched} set` : "as lit"}
      isOpen={isOpen}
      onToggle={() => workspace.unfold(KEY, !isOpen)}
    >
      {shares === null && (
        <Typography variant="body2" color="textSecondary">
          When the proof has some samples, each light group has a fader here.
        </Typography>
      )}
      {shares?.map(({ group, share }) => (
        <GroupFader key={group} group={group} share={share} isSet={group in balance} />
      ))}
      {shares !== null && (
        <Box sx={{ display: "flex", alignItems: "center", gap: 1, mt: 0.5 }}>
          <Button
            size="small"
            color="secondary"
            disabled={touched === 0}
            onClick={() => void workspace.commitBy("bake_balance", SHOT)}
          >
            Bake into the lights
          </Button>
          <Typography variant="caption" color="textSecondary" sx={{ ml: "auto" }}>
            {`${Math.max(Math.round(bytes / MEBIBYTE), 1)} MiB`}
          </Typography>
        </Box>
      )}
    </Fold>
  );
}

interface FaderProps {
  group: string;
  share: number;
  isSet: boolean;
}

function GroupFader({ group, share, isSet }: FaderProps) {
  const workspace = useWorkspace();
  const places = useMemo(() => [["balance", group]], [group]);
  const neutral = {
    stops: described("Fader", "stops").default,
    tint: described("Fader", "tint").default,
    enabled: true,
  };
  return (
    <Box sx={{ mb: 0.75 }}>
      <Box sx={{ display: "flex", gap: 1, alignItems: "baseline" }}>
        <Typography variant="body2" noWrap sx={{ flex: 1 }}>
          {group}
        </Typography>
        <Typography variant="caption" color="textSecondary" data-testid={`share-${group}`}>
          {`${(share * 100).toFixed(share < 0.1 ? 1 : 0)} %`}
        </Typography>
        <Button
          size="small"
          color="inherit"
          sx={{ minWidth: 0, py: 0, fontSize: 11 }}
          aria-label={isSet ? `${group} as lit` : `Balance ${group}`}
          onClick={() =>
            workspace.commit(
              [
                isSet
                  ? { op: "remove", path: pointer("balance", group) }
                  : { op: "add", path: pointer("balance", group), value: neutral },
              ],
              isSet ? `${group} as lit` : `Balance ${group}`,
            )
          }
        >
          {isSet ? "as lit" : "balance"}
        </Button>
      </Box>
      {isSet && (
        <>
          <BoundQuantity model="Fader" places={places} name="stops" />
          <BoundColor model="Fader" places={places} name="tint" />
        </>
      )}
    </Box>
  );
}
