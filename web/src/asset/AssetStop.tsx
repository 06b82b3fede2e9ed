/** Asset: what was brought in, its size, what is odd about it, its parts, bringing in another. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { Scan } from "lucide-react";
import { Section } from "../controls/Section";
import { ImportPad } from "../home/ImportPad";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { AddAsset } from "./AddAsset";
import { Clips } from "./FromFile";
import { PartSets } from "./PartSets";
import { PartsList } from "./PartsList";
import { PartTools } from "./PartTools";
import { Report } from "./Report";
import { SetPieces } from "./SetPieces";
import { Size } from "./Size";
import { Swap } from "./Swap";

/** With parts selected, their tools stand below the list. */
const BESIDE_TOOLS = "max(160px, calc(100vh - 620px))";

export function AssetStop() {
  const workspace = useWorkspace();
  const asset = useScene((s) => s.asset);
  const count = useScene((s) => Object.keys(s.parts).length);
  const hasSelection = useSlice((s) => s.selection.length > 0);
  return (
    <>
      <Box sx={{ display: "flex", alignItems: "center", mb: 0.5 }}>
        <Box sx={{ flex: 1, minWidth: 0 }}>
          <Typography noWrap sx={{ fontWeight: 600 }}>
            {asset?.name ?? "No asset"}
          </Typography>
          <Typography variant="caption" color="textSecondary" component="p" noWrap>
            {asset?.file.name}
          </Typography>
        </Box>
        <Tooltip title="Frame the asset">
          <IconButton
            size="small"
            aria-label="Frame the asset"
            onClick={() => workspace.frameParts(SHOT, null)}
          >
            <Scan size={16} />
          </IconButton>
        </Tooltip>
      </Box>
      <Clips />
      <Size />
      <Report />
      <Section
        title={count === 1 ? "1 part" : `${count.toLocaleString("en").replaceAll(",", " ")} parts`}
        aside={count > 1 && <SortButtons />}
      >
        <PartsList {...(hasSelection && { maxHeight: BESIDE_TOOLS })} />
      </Section>
      <PartTools />
      <PartSets />
      <SetPieces />
      <AddAsset />
      <Swap />
      <ImportPad
        dense
        onDone={(project) =>
          workspace.notify({ severity: "info", text: "The new project is ready.", project })
        }
      />
    </>
  );
}

const BY = ["material", "name", "size"] as const;

/** Sets of parts that have something in common. */
function SortButtons() {
  const workspace = useWorkspace();
  return (
    <Box role="group" aria-label="Make sets by" sx={{ display: "flex", alignItems: "center" }}>
      <Typography variant="caption" color="textSecondary">
        sets by
      </Typography>
      {BY.map((by) => (
        <Button
          key={by}
          size="small"
          sx={{ minWidth: 0, px: 0.75, fontSize: 12 }}
          onClick={() => workspace.arrange({ kind: "sort", by })}
        >
          {by}
        </Button>
      ))}
    </Box>
  );
}
