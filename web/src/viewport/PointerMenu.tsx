/** What can be done with what lies under the pointer. */
import Divider from "@mui/material/Divider";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { useEffect, useState } from "react";
import { action, addToSet, setVisible, showOnly } from "../actions/registry";
import { focusTo } from "../camera/focus";
import type { Found } from "../socket/panes";
import { useScene, useSlice, useWorkspace } from "../store/context";
import type { PaneNumber } from "../store/panes";
import { pointer, replace } from "../store/patch";
import type { Reflectance, Shares } from "../store/workspace";
import { type Reading, readingOf } from "./readings";
import type { MenuPlace } from "./useGestures";

interface Props {
  number: PaneNumber;
  place: MenuPlace;
  onClose: () => void;
}

export function PointerMenu({ number, place, onClose }: Props) {
  const workspace = useWorkspace();
  const parts = useScene((s) => s.parts);
  const sets = useScene((s) => s.part_sets);
  const selection = useSlice((s) => s.selection);
  const [found, setFound] = useState<Found | null | "asking">("asking");
  const [shines, setShines] = useState<Reflectance | null>(null);
  useEffect(() => {
    workspace.reflectance(number, place.x, place.y).then(setShines);
  }, [workspace, number, place.x, place.y]);
  useEffect(() => {
    workspace.pick(number, place.x, place.y).then(setFound);
  }, [workspace, number, place.x, place.y]);
  const [read, setRead] = useState<Reading | null>(null);
  useEffect(() => {
    workspace.askHost<Reading>("meter", number, { x: place.x, y: place.y }).then(setRead);
  }, [workspace, number, place.x, place.y]);
  if (found === "asking") return null;

  const key = found?.part ?? null;
  const part = key ? parts[key] : undefined;
  // A part of the selection stands for all of it.
  const keys = key === null ? [] : selection.includes(key) ? selection : [key];
  const many = keys.length > 1 ? ` ${keys.length} parts` : part ? ` ${part.name}` : "";
  const others = selection.filter((other) => part && parts[other] && parts[other].material !== part.material);
  const doing = (run: () => void) => () => {
    onClose();
    run();
  };

  const putLight = (at: Found) => {
    workspace.addLight("rectangle", at);
    workspace.go("light");
  };

  const isOther = selection.length > 0 && (key === null || !selection.includes(key));
  const stand = ({ position, normal }: Found, along: boolean) =>
    workspace.arrange({ kind: "put", parts: selection, position, normal, along });

  return (
    <Menu
      open
      onClose={onClose}
      anchorReference="anchorPosition"
      anchorPosition={{ left: place.left, top: place.top }}
      slotProps={{ list: { dense: true, "aria-label": "What is under the pointer" } }}
    >
      {shines && (shines.even ?? shines.here) && (
        <MenuItem
          disabled
          data-testid="reflectance"
          sx={{ display: "block", fontSize: 12, color: "text.secondary", "&.Mui-disabled": { opacity: 1 } }}
        >
          <SharesLine label="In even white light" shares={shines.even} />
          <SharesLine label="In this light" shares={shines.here} />
        </MenuItem>
      )}
      {read && read.luminance !== null && (
        <MenuItem
          disabled
          data-testid="meter"
          sx={{ fontSize: 12, color: "text.secondary", "&.Mui-disabled": { opacity: 1 } }}
        >
          {readingOf(read)}
        </MenuItem>
      )}
      {part && [
        <MenuItem
          key="material"
          onClick={doing(() => {
            workspace.select([key!]);
            workspace.go("materials");
          })}
        >
          Edit the material of {part.name}
        </MenuItem>,
        ...(others.length > 0
          ? [
              <MenuItem
                key="wear"
                onClick={doing(() =>
                  workspace.commit(
                    others.map((other) => replace(pointer("parts", other, "material"), part.material)),
                    `Dressed as ${part.name}`,
                  ),
                )}
              >
                Dress the selection as {part.name}
              </MenuItem>,
            ]
          : []),
        <MenuItem key="hide" onClick={doing(() => setVisible(workspace, keys, false, `Hide${many}`))}>
          Hide{many}
        </MenuItem>,
        <MenuItem key="only" onClick={doing(() => showOnly(workspace, keys))}>
          Show only this
        </MenuItem>,
        <MenuItem key="frame" onClick={doing(() => workspace.frameParts(number, keys))}>
          Frame{many}
        </MenuItem>,
        <Divider key="line" />,
        ...Object.entries(sets).map(([set, { name }]) => (
          <MenuItem key={set} onClick={doing(() => addToSet(workspace, keys, set))}>
            Add to {name}
          </MenuItem>
        )),
        <MenuItem key="set" onClick={doing(() => addToSet(workspace, keys, null))}>
          Add to a new part set
        </MenuItem>,
        <Divider key="line-2" />,
      ]}
      {found &&
        isOther && [
          <MenuItem key="stand" onClick={doing(() => stand(found, false))}>
            Stand the selection here
          </MenuItem>,
          <MenuItem key="lean" onClick={doing(() => stand(found, true))}>
            Stand it here along the surface
          </MenuItem>,
        ]}
      {found && [
        <MenuItem key="focus" onClick={doing(() => focusTo(workspace, number, found.focus))}>
          Focus here
        </MenuItem>,
        <MenuItem key="light" onClick={doing(() => putLight(found))}>
          Put a light here
        </MenuItem>,
      ]}
      <MenuItem onClick={doing(() => action("show-all").run(workspace))}>Show all parts</MenuItem>
      <MenuItem onClick={doing(() => workspace.frameParts(number, null))}>Frame the asset</MenuItem>
    </Menu>
  );
}

/** From where on a share is said as so many times white: it shines, mirrors a lamp or lets one through. */
const BRIGHT = 1.5;

/** What share of the light of a perfect white comes from a place, colour by colour, and the colour that it is. */
function SharesLine({ label, shares }: { label: string; shares: Shares | null }) {
  if (!shares) return null;
  const brightest = Math.max(...shares.linear);
  if (brightest > BRIGHT)
    return (
      <div>
        {label}: {brightest.toPrecision(2)} times as bright as white
      </div>
    );
  const [r, g, b] = shares.linear.map((v) => `${(v * 100).toFixed(1)} %`);
  return (
    <div>
      {label}: {r}, {g}, {b} · L*a*b* {shares.lab.map((v) => v.toFixed(1)).join(", ")}
    </div>
  );
}
