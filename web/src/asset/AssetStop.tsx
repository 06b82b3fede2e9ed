/** Asset: what was brought in, its parts, framing it, bringing in another. */
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { Scan } from "lucide-react";
import { Section } from "../controls/Section";
import { ImportPad } from "../home/ImportPad";
import { useScene, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { PartSets } from "./PartSets";
import { PartsList } from "./PartsList";

export function AssetStop() {
  const workspace = useWorkspace();
  const asset = useScene((s) => s.asset);
  const count = useScene((s) => Object.keys(s.parts).length);
  return (
    <>
      <Typography sx={{ fontWeight: 600 }}>{asset?.name ?? "No asset"}</Typography>
      <Typography variant="caption" color="textSecondary" component="p" noWrap sx={{ mb: 1 }}>
        {asset?.file.name}
      </Typography>
      <Button
        fullWidth
        variant="outlined"
        size="small"
        startIcon={<Scan size={15} />}
        onClick={() => workspace.frameParts(SHOT, null)}
        sx={{ mb: 1 }}
      >
        Frame the asset
      </Button>
      <Section title={count === 1 ? "1 part" : `${count.toLocaleString("en").replaceAll(",", " ")} parts`}>
        <PartsList />
      </Section>
      <PartSets />
      <ImportPad
        dense
        onDone={(project) =>
          workspace.notify({ severity: "info", text: "The new project is ready.", project })
        }
      />
    </>
  );
}
