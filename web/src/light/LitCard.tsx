/** One item of the shelf that is shown on this asset: its picture, its name, what can be done with it. */
import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import Typography from "@mui/material/Typography";
import type { ReactNode } from "react";

export const PITCH = 126;
const [WIDTH, HEIGHT] = [114, 68];

interface Props {
  item: { tabIndex: 0 | -1 };
  name: string;
  label: string;
  picture: string | undefined;
  isChosen?: boolean;
  onClick: (event: React.MouseEvent) => void;
  onFocus?: () => void;
  children?: ReactNode;
}

export function LitCard({ item, name, label, picture, isChosen = false, onClick, onFocus, children }: Props) {
  return (
    <Box sx={{ position: "relative", "&:hover .on-it, &:focus-within .on-it": { opacity: 1 } }}>
      <ButtonBase
        {...item}
        onClick={onClick}
        onFocus={onFocus}
        aria-label={label}
        aria-pressed={isChosen}
        sx={{
          flexDirection: "column",
          alignItems: "flex-start",
          borderRadius: 1,
          outlineOffset: 2,
          ...(isChosen && {
            boxShadow: (t: { palette: { primary: { main: string } } }) =>
              `0 0 0 2px ${t.palette.primary.main}`,
          }),
        }}
      >
        {picture ? (
          <Box
            component="img"
            src={picture}
            alt=""
            sx={{ width: WIDTH, height: HEIGHT, objectFit: "cover", borderRadius: 1, display: "block" }}
          />
        ) : (
          <Box sx={{ width: WIDTH, height: HEIGHT, borderRadius: 1, bgcolor: "background.default" }} />
        )}
        <Typography variant="caption" noWrap sx={{ maxWidth: WIDTH, px: 0.5 }}>
          {name}
        </Typography>
      </ButtonBase>
      <Box className="on-it" sx={{ position: "absolute", top: 2, right: 14, display: "flex", opacity: 0 }}>
        {children}
      </Box>
    </Box>
  );
}
