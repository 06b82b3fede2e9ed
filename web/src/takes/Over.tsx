/** A sheet over the picture: a head with its name, what can be done, and the way back. */
import Box from "@mui/material/Box";
import IconButton from "@mui/material/IconButton";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { ArrowLeft, X } from "lucide-react";
import type { ReactNode } from "react";
import { useWorkspace } from "../store/context";
import { SURROUND } from "../theme/theme";

/** Fields in the head: as high as its buttons. */
export const SMALL = { fontSize: 12.5, "& .MuiInputBase-input": { py: 0.5, px: 1, fontSize: 12.5 } };

interface Props {
  title: string;
  /** Whether it was opened from the sheet, and leads back there. */
  isOfSheet?: boolean;
  actions: ReactNode;
  children: ReactNode;
}

export function Over({ title, isOfSheet = false, actions, children }: Props) {
  const workspace = useWorkspace();
  return (
    <Box
      component="section"
      aria-label={title}
      sx={{
        position: "absolute",
        inset: 0,
        zIndex: 6,
        bgcolor: SURROUND,
        display: "flex",
        flexDirection: "column",
      }}
    >
      <Box
        sx={{ display: "flex", alignItems: "center", gap: 1, px: 1.5, py: 0.75, bgcolor: "background.paper" }}
      >
        {isOfSheet && (
          <Tooltip title="Back to the sheet">
            <IconButton
              size="small"
              aria-label="Back to the sheet"
              onClick={() => workspace.set({ takes: "sheet" })}
            >
              <ArrowLeft size={16} />
            </IconButton>
          </Tooltip>
        )}
        <Typography component="h2" variant="subtitle2" noWrap sx={{ flex: 1, minWidth: 0 }}>
          {title}
        </Typography>
        {actions}
        <Tooltip title="Back to the picture">
          <IconButton
            size="small"
            aria-label="Back to the picture"
            onClick={() => workspace.set({ takes: null })}
          >
            <X size={16} />
          </IconButton>
        </Tooltip>
      </Box>
      {children}
    </Box>
  );
}
