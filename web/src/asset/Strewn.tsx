/** How a part is strewn over another, and by which image. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useMemo } from "react";
import { FieldGroups } from "../controls/FieldGroup";
import { useScene, useWorkspace } from "../store/context";
import { pointer, replace } from "../store/patch";
import { ImageChoice } from "./ImageChoice";

export function Strewn({ id }: { id: string }) {
  const places = useMemo(() => [["parts", id, "strewn"]], [id]);
  return (
    <FieldGroups model="Scatter" places={places} open={["strewn"]} more={{ strewn: <Surface id={id} /> }} />
  );
}

function Surface({ id }: { id: string }) {
  const workspace = useWorkspace();
  const part = useScene((s) => s.parts[id]);
  const over = useScene((s) => s.parts[part?.strewn?.over ?? ""]?.name);
  if (!part?.strewn) return null;
  return (
    <>
      <ImageChoice
        label="Where its light parts are"
        chosen={part.strewn.mask}
        onChoose={(image) =>
          workspace.commit([replace(pointer("parts", id, "strewn", "mask"), image)], "Mask of what is strewn")
        }
      />
      <Box sx={{ display: "flex", alignItems: "center", gap: 1 }}>
        <Typography noWrap variant="body2" color="textSecondary" sx={{ flex: 1 }}>
          {over ? `Over ${over}` : "What it was strewn over is gone"}
        </Typography>
        <Button
          size="small"
          onClick={() =>
            workspace.commit([replace(pointer("parts", id, "strewn"), null)], `One ${part.name} alone`)
          }
        >
          Stand alone
        </Button>
      </Box>
    </>
  );
}
