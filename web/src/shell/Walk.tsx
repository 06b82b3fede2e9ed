/** The stops in the order of work; the active one folds drawer and shelf away when it is pressed again. */
import ButtonBase from "@mui/material/ButtonBase";
import Stack from "@mui/material/Stack";
import Typography from "@mui/material/Typography";
import { useSlice, useWorkspace } from "../store/context";
import { stops } from "./stops";

const WALK_WIDTH = 72;

export function Walk() {
  const workspace = useWorkspace();
  const active = useSlice((s) => s.stop);
  const panels = useSlice((s) => s.panels);
  return (
    <Stack
      component="nav"
      aria-label="Walk"
      sx={{
        width: WALK_WIDTH,
        flexShrink: 0,
        py: 1,
        bgcolor: "background.default",
        borderRight: "1px solid",
        borderColor: "divider",
      }}
    >
      {stops.map(({ id, label, icon: Icon }) => {
        const current = id === active && panels;
        return (
          <ButtonBase
            key={id}
            onClick={() => (current ? workspace.togglePanels() : workspace.go(id))}
            aria-current={current ? "step" : undefined}
            sx={{
              py: 1.1,
              flexDirection: "column",
              gap: 0.4,
              color: current ? "text.primary" : "text.secondary",
              borderLeft: "3px solid",
              borderColor: current ? "primary.main" : "transparent",
              bgcolor: current ? "rgba(185,120,171,0.14)" : "transparent",
              "&:hover": { color: "text.primary" },
            }}
          >
            <Icon size={19} strokeWidth={1.7} aria-hidden />
            <Typography variant="caption" sx={{ fontSize: 11 }}>
              {label}
            </Typography>
          </ButtonBase>
        );
      })}
    </Stack>
  );
}
