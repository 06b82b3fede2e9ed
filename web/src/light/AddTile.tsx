/** The last place of a shelf, where something is added or kept. */
import ButtonBase from "@mui/material/ButtonBase";
import Typography from "@mui/material/Typography";
import { Plus } from "lucide-react";
import type { ReactNode } from "react";

interface Props {
  item: { tabIndex: 0 | -1 };
  /** What it does, in one or two words, and as it is read out. */
  word: string;
  label: string;
  onClick: () => void;
  /** In the place of the plus. */
  children?: ReactNode;
}

export function AddTile({ item, word, label, onClick, children }: Props) {
  return (
    <ButtonBase
      {...item}
      onClick={onClick}
      aria-label={label}
      sx={{
        width: 104,
        height: 68,
        flexDirection: "column",
        border: "1px dashed",
        borderColor: "divider",
        borderRadius: 1,
        color: "text.secondary",
      }}
    >
      {children ?? <Plus size={18} />}
      <Typography variant="caption">{word}</Typography>
    </ButtonBase>
  );
}
