/** Beside a number or a colour: which pattern or image it takes besides its constant, or a menu of those it could. */
import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { Blend, ChevronDown } from "lucide-react";
import { useMemo, useState } from "react";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { isSame } from "../store/patch";
import { described, type Place, valueAt } from "./fields";
import {
  type Input,
  inputKey,
  inputPlace,
  KINDS,
  type Parameter,
  type SourceKind,
  sourceName,
} from "./inputs";

/** Of a parameter of materials. */
export function InputMark({ places, name }: { places: readonly Place[]; name: Parameter }) {
  const workspace = useWorkspace();
  const inputs = useMemo(() => places.map((place) => inputPlace(place, name)), [places, name]);
  return (
    <SourceMark
      inputs={inputs}
      label={described("Material", name).label}
      unfolds={inputKey(name)}
      onTake={(kind) =>
        workspace.addInput(
          places.map((place) => place[1]!),
          name,
          kind,
        )
      }
    />
  );
}

interface Props {
  /** Where the inputs are, or would be. */
  inputs: readonly Place[];
  /** What takes them. */
  label: string;
  /** What says of the window whether their controls are unfolded. */
  unfolds: string;
  startsOpen?: boolean;
  /** Those that can be taken; all unless given. */
  kinds?: readonly SourceKind[];
  onTake: (kind: SourceKind) => void;
}

/** Of anything that takes an input. */
export function SourceMark({ inputs, label, unfolds, startsOpen = true, kinds = KINDS, onTake }: Props) {
  const workspace = useWorkspace();
  const said = useScene((s) => {
    const kinds = inputs.map((place) => (valueAt(s, place) as Input | null | undefined)?.source.kind);
    return kinds.every((kind) => isSame(kind, kinds[0])) ? kinds[0] : "mixed";
  });
  const isOpen = useSlice((s) => s.unfolded[unfolds]) ?? startsOpen;
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  if (said !== undefined && said !== "mixed")
    return (
      <ButtonBase
        aria-expanded={isOpen}
        aria-label={`${sourceName(said)} of ${label}`}
        onClick={() => workspace.unfold(unfolds, !isOpen)}
        sx={{
          gap: 0.25,
          ml: 0.75,
          color: "primary.main",
          fontSize: 11.5,
          fontFamily: "inherit",
          flexShrink: 0,
          borderRadius: 0.5,
        }}
      >
        {sourceName(said)}
        <Box component={ChevronDown} size={12} sx={{ transform: isOpen ? "rotate(180deg)" : "none" }} />
      </ButtonBase>
    );
  const what = kinds.includes("image") ? "Pattern or image" : "Pattern";
  return (
    <>
      <ButtonBase
        aria-haspopup="menu"
        aria-label={`${what} for ${label}`}
        title={said === "mixed" ? "Patterns of several kinds" : `Take a ${what.toLowerCase()}`}
        onClick={(event) => setMenu(event.currentTarget)}
        sx={{
          p: 0.5,
          borderRadius: 0.5,
          color: "text.secondary",
          flexShrink: 0,
          "&:hover": { color: "primary.main" },
        }}
      >
        <Blend size={13} />
      </ButtonBase>
      <SourceMenu
        anchor={menu}
        kinds={kinds}
        onClose={() => setMenu(null)}
        onChoose={(kind) => {
          workspace.unfold(unfolds, true);
          onTake(kind);
        }}
      />
    </>
  );
}

interface MenuProps {
  anchor: HTMLElement | null;
  onClose: () => void;
  kinds?: readonly SourceKind[];
  onChoose: (kind: SourceKind) => void;
}

/** The kinds of sources, or some of them. */
export function SourceMenu({ anchor, onClose, kinds = KINDS, onChoose }: MenuProps) {
  return (
    <Menu anchorEl={anchor} open={anchor !== null} onClose={onClose}>
      {kinds.map((kind) => (
        <MenuItem
          dense
          key={kind}
          onClick={() => {
            onClose();
            onChoose(kind);
          }}
        >
          {sourceName(kind)}
        </MenuItem>
      ))}
    </Menu>
  );
}
