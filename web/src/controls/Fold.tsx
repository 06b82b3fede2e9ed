/** A group of controls that folds to one line, which sums it up. */
import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import Typography from "@mui/material/Typography";
import { ChevronRight } from "lucide-react";
import { type ReactNode, useId } from "react";

interface FoldProps {
  title: string;
  summary?: ReactNode;
  /** What stands behind the heading, and is no part of what folds. */
  aside?: ReactNode;
  isOpen: boolean;
  onToggle: () => void;
  children: ReactNode;
}

export function Fold({ title, summary, aside, isOpen, onToggle, children }: FoldProps) {
  const id = useId();
  return (
    <Box component="section" sx={{ borderTop: "1px solid", borderColor: "divider", mx: -2, px: 2 }}>
      <Box sx={{ display: "flex", alignItems: "center" }}>
        <Typography component="h2" variant="body2" sx={{ flex: 1, minWidth: 0 }}>
          <ButtonBase
            aria-expanded={isOpen}
            aria-controls={id}
            onClick={onToggle}
            sx={{
              width: "100%",
              minHeight: 32,
              gap: 1,
              justifyContent: "flex-start",
              fontFamily: "inherit",
              fontSize: 12.5,
              "&:hover": { color: "primary.main" },
            }}
          >
            <Box
              component={ChevronRight}
              size={13}
              aria-hidden
              sx={{
                flexShrink: 0,
                ml: "-3px",
                color: "text.secondary",
                transform: isOpen ? "rotate(90deg)" : "none",
              }}
            />
            <Box component="span" sx={{ fontWeight: 600 }}>
              {title}
            </Box>
            {!isOpen && (
              <Box
                component="span"
                sx={{
                  flex: 1,
                  display: "flex",
                  justifyContent: "flex-end",
                  alignItems: "center",
                  gap: 0.75,
                  minWidth: 0,
                  overflow: "hidden",
                  whiteSpace: "nowrap",
                  color: "text.secondary",
                  fontSize: 11.5,
                }}
              >
                {summary}
              </Box>
            )}
          </ButtonBase>
        </Typography>
        {aside}
      </Box>
      <Box id={id} hidden={!isOpen} sx={{ pb: isOpen ? 1.25 : 0 }}>
        {isOpen && children}
      </Box>
    </Box>
  );
}
