/** The shape of the frame: by the ratio of its sides, or a sheet of paper at so many dots an inch. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Divider from "@mui/material/Divider";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { Ratio } from "lucide-react";
import { useState } from "react";
import { frameShapes, sheetDpi, sheets } from "../api/fields.gen";
import { useScene, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";

type Shape = keyof typeof frameShapes;
const NEAR = 0.004;

/** What the frame is called by its sides; its pixels where it has no name. */
function nameOf(width: number, height: number): string {
  const ratio = Math.max(width, height) / Math.min(width, height);
  const found = (Object.entries(frameShapes) as [Shape, number][]).find(
    ([, one]) => Math.abs(one - ratio) < NEAR * one,
  );
  return `${found ? `${found[0]}${height > width ? " upright" : ""} · ` : ""}${width} × ${height}`;
}

export function FrameShape() {
  const workspace = useWorkspace();
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const name = useScene((s) => nameOf(s.print.width, s.print.height));
  const upright = useScene((s) => s.print.height > s.print.width);
  const take = (shape: Shape, turned: boolean, dpi: number = sheetDpi[1]) => {
    setMenu(null);
    void workspace.commitBy("frame_shape", SHOT, { shape, upright: turned, dpi });
  };
  const isSheet = (shape: string) => (sheets as readonly string[]).includes(shape);
  const shapes = Object.keys(frameShapes) as Shape[];
  return (
    <Box>
      <Button
        fullWidth
        size="small"
        variant="outlined"
        startIcon={<Ratio size={15} />}
        aria-haspopup="menu"
        aria-label={`Shape of the frame: ${name}`}
        onClick={(event) => setMenu(event.currentTarget)}
      >
        {name}
      </Button>
      <Menu
        anchorEl={menu}
        open={menu !== null}
        onClose={() => setMenu(null)}
        slotProps={{ list: { dense: true } }}
      >
        {shapes
          .filter((shape) => !isSheet(shape))
          .map((shape) => (
            <MenuItem key={shape} onClick={() => take(shape, upright && shape !== "1:1")}>
              {shape}
            </MenuItem>
          ))}
        <MenuItem onClick={() => take(shapeNow(name), !upright)}>{upright ? "Lying" : "Upright"}</MenuItem>
        <Divider />
        {shapes.filter(isSheet).flatMap((shape) =>
          sheetDpi.map((dpi) => (
            <MenuItem key={`${shape} ${dpi}`} onClick={() => take(shape, upright, dpi)}>
              {`${shape}, ${dpi} dpi`}
            </MenuItem>
          )),
        )}
      </Menu>
    </Box>
  );
}

const shapeNow = (name: string): Shape => {
  const said = name.split(" ")[0] as Shape;
  return said in frameShapes ? said : "3:2";
};
