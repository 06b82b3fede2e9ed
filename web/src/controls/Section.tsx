/** A part of a drawer under a heading of its own. */
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import type { ReactNode } from "react";

interface SectionProps {
  title: string;
  /** What stands beside the heading. */
  aside?: ReactNode;
  children: ReactNode;
}

export function Section({ title, aside, children }: SectionProps) {
  return (
    <Box component="section" sx={{ mb: 1.5 }}>
      <Box sx={{ display: "flex", alignItems: "center" }}>
        <Typography
          component="h2"
          variant="body2"
          sx={{ flex: 1, fontWeight: 600, minHeight: 30, lineHeight: "30px" }}
        >
          {title}
        </Typography>
        {aside}
      </Box>
      {children}
    </Box>
  );
}
