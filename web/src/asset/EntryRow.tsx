/** A row of the parts' tree: its name, a line below it, an eye. */
import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import IconButton from "@mui/material/IconButton";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { Eye, EyeOff } from "lucide-react";
import { type ReactNode, useState } from "react";
import type { RowHandles } from "../controls/Rows";
import { EntryName } from "./EntryName";

export type Press = Pick<MouseEvent, "shiftKey" | "ctrlKey" | "metaKey">;
const INDENT = 14;
const DEEPEST_SHOWN = 6;

interface Props {
  section: "parts" | "part_groups";
  id: string;
  name: string;
  note: string;
  depth: number;
  isSelected: boolean;
  isVisible: boolean;
  handles: RowHandles;
  /** Before the name. */
  lead?: ReactNode;
  onPick: (press: Press) => void;
  onShow: (visible: boolean) => void;
}

export function EntryRow({ section, id, name, note, depth, isSelected, isVisible, ...rest }: Props) {
  const [isNamed, setNamed] = useState(false);
  const verb = isVisible ? "Hide" : "Show";
  return (
    <Box
      sx={{
        height: "100%",
        display: "flex",
        alignItems: "center",
        borderRadius: 1,
        borderLeft: "3px solid",
        borderColor: isSelected ? "primary.main" : "transparent",
        bgcolor: isSelected ? "rgba(185,120,171,0.16)" : "transparent",
        pl: `${Math.min(depth, DEEPEST_SHOWN) * INDENT}px`,
        "&:hover": { bgcolor: "action.hover" },
      }}
    >
      {rest.lead}
      <Box role="gridcell" sx={{ flex: 1, minWidth: 0 }}>
        {isNamed && <EntryName section={section} id={id} name={name} onDone={() => setNamed(false)} />}
        <ButtonBase
          {...rest.handles.item}
          aria-pressed={isSelected}
          onClick={rest.onPick}
          onDoubleClick={() => setNamed(true)}
          onKeyDown={(event) => {
            if (event.key === "F2") setNamed(true);
          }}
          sx={{
            width: "100%",
            display: isNamed ? "none" : "block",
            textAlign: "left",
            px: 1,
            py: 0.25,
            opacity: isVisible ? 1 : 0.55,
          }}
        >
          <Typography noWrap component="span" sx={{ display: "block", fontSize: 13, lineHeight: 1.35 }}>
            {name}
          </Typography>
          <Typography
            noWrap
            component="span"
            color="textSecondary"
            sx={{ display: "block", fontSize: 11.5, lineHeight: 1.3 }}
          >
            {note}
          </Typography>
        </ButtonBase>
      </Box>
      <Box role="gridcell">
        <Tooltip title={verb}>
          <IconButton
            size="small"
            tabIndex={-1}
            aria-label={`${verb} ${name}`}
            onClick={() => rest.onShow(!isVisible)}
          >
            {isVisible ? <Eye size={15} /> : <EyeOff size={15} />}
          </IconButton>
        </Tooltip>
      </Box>
    </Box>
  );
}
