/** The stops of the walk, in the order of work: name, icon, drawer, shelf. */
import {
  Aperture,
  Box as BoxIcon,
  Layers,
  type LucideIcon,
  Printer,
  Shapes,
  SlidersHorizontal,
  Sun,
} from "lucide-react";
import type { ComponentType } from "react";
import { AssetStop } from "../asset/AssetStop";
import { CameraStop } from "../camera/CameraStop";
import { ShotShelf } from "../camera/ShotShelf";
import { CompareStop } from "../compare/CompareStop";
import { EditionShelf } from "../compare/EditionShelf";
import { LightShelf } from "../light/LightShelf";
import { LightStop } from "../light/LightStop";
import { LookShelf } from "../look/LookShelf";
import { LookStop } from "../look/LookStop";
import { MaterialShelf } from "../materials/MaterialShelf";
import { MaterialsStop } from "../materials/MaterialsStop";
import { PrintShelf } from "../print/PrintShelf";
import { PrintStop } from "../print/PrintStop";
import type { Stop } from "../store/view";

export interface StopView {
  id: Stop;
  label: string;
  icon: LucideIcon;
  drawer: ComponentType;
  shelf: ComponentType | null;
}

export const stops: StopView[] = [
  { id: "asset", label: "Asset", icon: BoxIcon, drawer: AssetStop, shelf: null },
  { id: "materials", label: "Materials", icon: Layers, drawer: MaterialsStop, shelf: MaterialShelf },
  { id: "light", label: "Light", icon: Sun, drawer: LightStop, shelf: LightShelf },
  { id: "camera", label: "Camera", icon: Aperture, drawer: CameraStop, shelf: ShotShelf },
  { id: "look", label: "Look", icon: SlidersHorizontal, drawer: LookStop, shelf: LookShelf },
  { id: "compare", label: "Compare", icon: Shapes, drawer: CompareStop, shelf: EditionShelf },
  { id: "print", label: "Print", icon: Printer, drawer: PrintStop, shelf: PrintShelf },
];
