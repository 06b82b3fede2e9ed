/** Another asset beside the one that the project has, or in its place as a variant. */
import Button from "@mui/material/Button";
import { Plus, Replace } from "lucide-react";
import { useRef } from "react";
import type { SwapOffer } from "../api/types";
import { FileInput } from "../controls/FileInput";
import { ASSET_FILES } from "../home/ImportPad";
import { useSlice, useWorkspace } from "../store/context";
import { bring } from "../store/jobs";
import { takeOffer } from "./taking";

export function AddAsset({ asVariant = false }: { asVariant?: boolean }) {
  const workspace = useWorkspace();
  const project = useSlice((s) => s.project);
  const input = useRef<HTMLInputElement>(null);
  const fail = (text: string) => workspace.notify({ severity: "error", text });
  const take = async ({ table }: SwapOffer, upload: number) => {
    if ((await takeOffer(workspace, upload, {}, asVariant)) && !asVariant)
      workspace.select(table.map(({ key }) => key));
  };
  return (
    <>
      <Button
        fullWidth
        size="small"
        variant="outlined"
        startIcon={asVariant ? <Replace size={15} /> : <Plus size={15} />}
        onClick={() => input.current?.click()}
        sx={{ mb: 1 }}
      >
        {asVariant ? "Another asset in its place" : "Add an asset to this project"}
      </Button>
      <FileInput
        ref={input}
        label={asVariant ? "File of the asset in its place" : "File of another asset"}
        accept={ASSET_FILES}
        onFile={(file) =>
          bring("asset", file, { swaps: project, joins: true, onOffer: take, onProblem: fail })
        }
      />
    </>
  );
}
