/** The look: quiet charcoal, warm off-white text, plum for selection, amber only for light and what is running. */
import { createTheme } from "@mui/material/styles";

/** Neutral grey around the picture: equal red, green and blue, so that colour can be judged. */
export const SURROUND = "#2a2a2a";
const FOCUS = "2px solid #d9a3cd";

export const theme = createTheme({
  palette: {
    mode: "dark",
    primary: { main: "#b978ab", contrastText: "#1b141a" },
    secondary: { main: "#e9a63f", contrastText: "#1c1408" },
    info: { main: "#b5aea5" },
    background: { default: "#171717", paper: "#1f1f1f" },
    text: { primary: "#f2ece3", secondary: "#b5aea5" },
    divider: "#343434",
  },
  shape: { borderRadius: 6 },
  typography: {
    fontFamily: "'Figtree Variable', system-ui, sans-serif",
    fontSize: 13,
    body2: { fontSize: 12.5 },
    caption: { fontSize: 11.5 },
    button: { textTransform: "none", fontWeight: 600 },
    overline: { letterSpacing: "0.08em", fontWeight: 600, fontSize: 11 },
  },
  components: {
    MuiCssBaseline: {
      styleOverrides: {
        body: { overflow: "hidden", fontVariantNumeric: "tabular-nums" },
        "*:focus-visible": { outline: FOCUS, outlineOffset: 1 },
        ".drawer-edge": { width: 5, background: "#343434", backgroundClip: "content-box", padding: "0 2px" },
        ".drawer-edge:hover, .drawer-edge:focus-visible": { background: "#b978ab" },
      },
    },
    MuiButtonBase: {
      defaultProps: { disableRipple: true },
      // The component library takes the outline away, more specifically than the rule above.
      styleOverrides: {
        root: { "&.Mui-focusVisible, &:focus-visible": { outline: FOCUS, outlineOffset: 1 } },
      },
    },
    MuiToggleButton: {
      styleOverrides: {
        root: ({ theme: t }) => ({
          color: t.palette.text.secondary,
          "&.Mui-selected": { color: t.palette.text.primary, backgroundColor: "rgba(185,120,171,0.28)" },
          "&.Mui-selected:hover": { backgroundColor: "rgba(185,120,171,0.36)" },
        }),
      },
    },
    // While a list fades, what lies behind it would take no press: a quick hand would lose it.
    MuiMenu: { defaultProps: { transitionDuration: 0 } },
    MuiTooltip: { defaultProps: { arrow: true, enterDelay: 500 } },
    MuiPaper: { styleOverrides: { root: { backgroundImage: "none" } } },
    MuiSwitch: { defaultProps: { size: "small" } },
    MuiSlider: { defaultProps: { size: "small" } },
  },
});
