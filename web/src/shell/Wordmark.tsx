import Box from "@mui/material/Box";

/** The name, in the typeface that is kept for it. */
export function Wordmark({ size = 17 }: { size?: number }) {
  return (
    <Box
      component="span"
      sx={{
        fontFamily: "'Fraunces Variable', serif",
        fontSize: size,
        fontWeight: 500,
        letterSpacing: "-0.01em",
        whiteSpace: "nowrap",
      }}
    >
      Velvet Lantern
    </Box>
  );
}
