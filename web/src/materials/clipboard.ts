/** A material in the clipboard of this browser: taken from a part, given to others, also of another project. */
import type { Operation, Scene } from "../api/types";
import { keep, kept } from "../store/kept";
import { pointer, replace } from "../store/patch";
import type { Workspace } from "../store/workspace";

const NAME = "material";

type Materials = Scene["materials"];
type Material = Materials[string];

interface Copied {
  project: number;
  key: string;
  /** The material, and those that lie over it. */
  materials: Materials;
}

/** Take the material of the first selected part. */
export function copyMaterial(workspace: Workspace): void {
  const { scene, selection, project } = workspace.getState();
  const worn = scene.parts[selection.find((key) => key in scene.parts) ?? ""]?.material;
  const material = worn === undefined ? undefined : scene.materials[worn];
  if (worn === undefined || !material) {
    workspace.notify({ severity: "info", text: "Select a part whose material is to be copied." });
    return;
  }
  const over = material.layers.map((layer) => [layer.material, scene.materials[layer.material]!] as const);
  keep(NAME, { project, key: worn, materials: Object.fromEntries([[worn, material], ...over]) });
  workspace.notify({ severity: "info", text: `${material.name} is copied.` });
}

/** Give the selection the material that was copied. */
export function pasteMaterial(workspace: Workspace): void {
  const copied = kept<Copied | null>(NAME, null);
  const { scene, selection, project } = workspace.getState();
  const parts = selection.filter((key) => key in scene.parts);
  if (!copied || parts.length === 0) {
    const text = copied ? "Select the parts that are to wear it." : "No material has been copied.";
    workspace.notify({ severity: "info", text });
    return;
  }
  const name = copied.materials[copied.key]!.name;
  workspace.commit(pasted(scene, copied, copied.project === project, parts), `${name} on the selection`);
}

/** What gives parts a copied material: the one that is there in its own project, a copy of it in another. */
export function pasted(scene: Scene, copied: Copied, isHome: boolean, parts: readonly string[]): Operation[] {
  const keyOf = (key: string) => (isHome ? key : `${key}-of-${copied.project}`.slice(-LONGEST));
  const missing = Object.entries(copied.materials).filter(([key]) => !(keyOf(key) in scene.materials));
  return [
    ...missing.map(
      ([key, material]): Operation => ({
        op: "add",
        path: pointer("materials", keyOf(key)),
        value: isHome ? material : withoutImages(material, keyOf),
      }),
    ),
    ...parts.map((part) => replace(pointer("parts", part, "material"), keyOf(copied.key))),
  ];
}

const LONGEST = 80;

/** Images belong to the asset of the project that they were copied in. */
function withoutImages(material: Material, keyOf: (key: string) => string): Material {
  const isImage = (one: { source: { kind: string } } | null) => one?.source.kind === "image";
  const bare = Object.fromEntries(
    Object.entries(material).map(([field, value]) => [field, field.endsWith("_texture") ? null : value]),
  ) as Material;
  const inputs = Object.entries(material.inputs).filter(([, one]) => !isImage(one as never));
  const layers = material.layers
    .filter((layer) => !isImage(layer.mask))
    .map((layer) => ({
      ...layer,
      material: keyOf(layer.material),
      breakup: isImage(layer.breakup) ? null : layer.breakup,
    }));
  return { ...bare, inputs: Object.fromEntries(inputs), layers };
}
