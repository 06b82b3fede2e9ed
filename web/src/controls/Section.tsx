/** A part of a drawer under a heading of its own. */
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import type { ReactNode } from "react";

export function Section({ title, children }: { title: string; children: ReactNode }) {
  return (
    <Box component="section" sx={{ mb: 1.5 }}>
      <Typography component="h2" variant="body2" sx={{ fontWeight: 600, minHeight: 30, lineHeight: "30px" }}>
        {title}
      </Typography>
      {children}
    </Box>
  );
}
