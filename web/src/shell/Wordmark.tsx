import Box from "@mui/material/Box";

/** The name, in the typeface that is kept for it. */
export function Wordmark({ size = 17, isTitle = false }: { size?: number; isTitle?: boolean }) {
  return (
    <Box
      component={isTitle ? "h1" : "span"}
      sx={{
        m: 0,
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
