/** Names for the generated types. */
import type { components } from "./schema";

type Schemas = components["schemas"];
export type Scene = Schemas["Scene"];
export type Material = Schemas["Material"];
export type Part = Schemas["Part"];
export type PartGroup = Schemas["PartGroup"];
export type Camera = Schemas["Camera"];
export type Light = Schemas["Scene"]["lights"][string];
export type FileRef = Schemas["FileRef"];
export type ProjectSummary = Schemas["ProjectSummary"];
export type ProjectDetail = Omit<Schemas["ProjectDetail"], "report"> & { report: Finding[] };
export type UploadState = Schemas["UploadState"];
export type EnvironmentEntry = Schemas["EnvironmentEntry"];
export type Card = NonNullable<Scene["environment"]["cards"]>[string];
export type Rig = Schemas["Rig"];
export type Look = Schemas["Look"];
export type LookEntry = Schemas["LookEntry"];
export type NamedLook = Schemas["NamedLook"];
export type Shot = Schemas["Shot"];
export type Variant = Schemas["Variant"];
export type VariantGroup = Schemas["VariantGroup"];
export type Edition = Schemas["Edition"];
export type TakeEntry = Schemas["TakeEntry"];
export type BrandColor = Schemas["BrandColor"];
export type CommentEntry = Schemas["CommentEntry"];
export type Mark = Schemas["Mark"];
export type TakeChange = Schemas["TakeChange"];
export type Comparison = Schemas["ComparisonEntry"];
export type PictureOfDifference = Schemas["PictureOfDifference"];
export type Area = Schemas["Restoring"]["areas"][number];
export type CityEntry = Schemas["CityEntry"];
export type RigEntry = Schemas["RigEntry"];
export type ProfileEntry = Schemas["ProfileEntry"];
export type ImageEntry = Schemas["ImageEntry"];
/** A material of the library, and those that lie over it, by the keys that they take in a document. */
export type SwatchEntry = Omit<Schemas["SwatchEntry"], "materials"> & { materials: Scene["materials"] };
export type PrintEntry = Schemas["PrintEntry"];
export type Session = Schemas["Session"];
export type StartEntry = Schemas["StartEntry"];
export type InvitationEntry = Schemas["InvitationEntry"];
export type MadeInvitation = Schemas["MadeInvitation"];
export type OpenSession = Schemas["OpenSession"];
/** An item of the import report. */
export type Finding = Omit<Schemas["Finding"], "repair"> & { repair: Operation[] | null };
/** What a newer version of an asset would make of its project. */
export type SwapOffer = Schemas["SwapOffer"];
/** What is done with parts as wholes. */
export type Arrangement = Schemas["Arrange"]["operation"];
export type Color = [number, number, number];
export type TextureUse = Schemas["TextureUse"];
/** What of a material takes an input, and what an input may come from. */
export type Parameter = Schemas["MakeInput"]["parameter"];
export type SourceKind = Schemas["MakeInput"]["kind"];
/** What of a material no real thing has. */
export type Doubt = Omit<Schemas["DoubtFound"], "patch"> & { patch: Operation[] };
export type Decal = Schemas["Decal"];
export type DecalKind = NonNullable<Schemas["Stick"]["kind"]>;
export type LayerInput = Schemas["MakeMask"]["which"];
/** Triangles of parts: as they came, in proof and print; and memory of the print [bytes]. */
export type Density = Omit<Schemas["DensityFound"], "type" | "asked">;
export type Status = Omit<Schemas["Status"], "type" | "pane">;
export type Opened = Schemas["Opened"];
export type HostState = Schemas["HostState"]["state"];
/** The socket's messages; a document in them is one that the server has read. */
export type ServerMessage =
  | Exclude<Schemas["ToBrowser"], { type: "document" | "edited" }>
  | (Omit<Schemas["DocumentMessage"], "scene"> & { scene: Scene })
  | (Omit<Schemas["Edited"], "patch"> & { patch: Operation[] });

/** One operation of a JSON Patch (RFC 6902), as far as edits use it. */
export interface Operation {
  op: "replace" | "add" | "remove";
  path: string;
  value?: unknown;
}
export type ShowingEntry = Schemas["ShowingEntry"];
export type NewShowing = Schemas["NewShowing"];
export type NewPrint = Schemas["NewPrint"];
export type OrderEntry = Schemas["OrderEntry"];
export type WorkerEntry = Schemas["WorkerEntry"];
export type OrderRow = Schemas["OrderRow"];
export type OrderChoice = Partial<Schemas["OrderChoice"]>;
export type NewOrder = OrderChoice & { name: string; left_out: number[] };
export type Motion = Scene["motion"];
export type Move = Motion["moves"][string];
export type Keyed = Extract<Move, { kind: "keyed" }>;
export type Right = ShowingEntry["rights"][number];
export type SeenShowing = Schemas["SeenShowing"];
export type SeenSlide = Schemas["SeenSlide"];
export type SeenComment = Schemas["SeenComment"];
export type FromVisitor = Schemas["FromVisitor"];
export type ToVisitor = Schemas["ToVisitor"];
