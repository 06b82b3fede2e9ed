/** The REST API, typed by its own schema; errors carry the server's own sentence. */
import createClient from "openapi-fetch";
import { newKey } from "./keys";
import type { paths } from "./schema";
import type {
  CityEntry,
  EnvironmentEntry,
  ImageEntry,
  LookEntry,
  NamedLook,
  NewPrint,
  PrintEntry,
  ProfileEntry,
  ProjectDetail,
  ProjectSummary,
  Rig,
  RigEntry,
  Session,
  SwatchEntry,
  UploadState,
} from "./types";

let csrfToken = "";
/** The event of the window that says that nobody is signed in any more. */
export const SIGNED_OUT = "signed-out";

/** The server refused or could not be reached; the message can be shown as it is. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

/** Somebody stopped it. */
export class Canceled extends Error {}

const BASE = "/api/v1/";
const UNAVAILABLE = 503;
/** Waits before a request is sent again whose answer did not arrive. */
const AGAIN_MS = [400, 1600];
/** What may be sent again without being done twice; a POST has a key by which the server knows it. */
const REPEATABLE = ["GET", "PATCH", "POST"];
/** Entries of a page, of lists that are wanted whole, and of those of which the newest will do. */
const [WHOLE, NEWEST] = [500, 50];

/** Send a request, and again while nobody answers or the server asks for that; throws ApiError when nobody does. */
export async function sent(
  request: Request,
  waits = REPEATABLE.includes(request.method) ? AGAIN_MS : [],
): Promise<Response> {
  const [wait, ...later] = waits;
  try {
    const answer = await fetch(request.clone());
    // The database is away for a moment: the server asks to try again.
    if (answer.status !== UNAVAILABLE || wait === undefined) return answer;
  } catch {
    if (wait === undefined) throw new ApiError("The server cannot be reached. Is it still running?", 0);
  }
  await new Promise((resolve) => setTimeout(resolve, wait));
  return sent(request, later);
}

export const http = createClient<paths>({ fetch: (request) => sent(request) });
http.use({
  onRequest({ request }) {
    request.headers.set("X-CSRFToken", csrfToken);
    if (request.method === "POST") request.headers.set("Idempotency-Key", newKey());
    return request;
  },
  async onResponse({ response }) {
    if (response.ok) return;
    if (response.status === 401) dispatchEvent(new Event(SIGNED_OUT));
    throw new ApiError(detailOf(await response.text(), response.status), response.status);
  },
});

function detailOf(text: string, status: number): string {
  try {
    const { detail } = JSON.parse(text) as { detail?: unknown };
    if (typeof detail === "string") return detail;
  } catch {
    // not JSON: an error page
  }
  return `The server answered with an error (${status}).`;
}

/** What came back; whatever is no success has been thrown before. */
export const data = async <T>(answer: Promise<{ data?: T }>): Promise<T> => (await answer).data as T;

interface Page<T> {
  items: T[];
  count: number;
}

/** Everything of a list, page after page. */
export async function all<T>(
  page: (query: { limit: number; offset: number }) => Promise<Page<T>>,
): Promise<T[]> {
  const found: T[] = [];
  for (;;) {
    const { items, count } = await page({ limit: WHOLE, offset: found.length });
    found.push(...items);
    if (items.length === 0 || found.length >= count) return found;
  }
}

function remember(session: Session): Session {
  csrfToken = session.csrf_token;
  return session;
}

/** What an asset is to become, if not a project as the person's default has it. */
export interface Becoming {
  /** The set-up with which its project begins. */
  start?: number | undefined;
  /** The project whose asset it is a newer version of. */
  swaps?: number | undefined;
  /** Whether it comes beside that one, not in its place. */
  joins?: boolean;
}

/** Send a file with progress [0, 1]; fetch cannot report it. */
function upload(
  kind: string,
  file: File,
  onProgress: (share: number) => void,
  signal?: AbortSignal,
  { start, swaps, joins }: Becoming = {},
): Promise<UploadState> {
  return new Promise((resolve, reject) => {
    const form = new FormData();
    if (start !== undefined) form.append("start", `${start}`);
    if (swaps !== undefined) form.append("swaps", `${swaps}`);
    if (joins) form.append("joins", "true");
    form.append("file", file);
    const request = new XMLHttpRequest();
    request.open("POST", `${BASE}intake/${kind}`);
    request.setRequestHeader("X-CSRFToken", csrfToken);
    request.upload.onprogress = (event) => event.lengthComputable && onProgress(event.loaded / event.total);
    request.onerror = () => reject(new ApiError("The upload was interrupted. Try it again.", 0));
    request.onabort = () => reject(new Canceled());
    request.onload = () =>
      request.status < 300
        ? resolve(JSON.parse(request.responseText) as UploadState)
        : reject(new ApiError(detailOf(request.responseText, request.status), request.status));
    signal?.addEventListener("abort", () => request.abort());
    request.send(form);
  });
}

export const ofProject = (project_id: number) => ({ params: { path: { project_id } } });
const ofPrint = (print_id: number) => ({ params: { path: { print_id } } });
const ofUpload = (upload_id: number) => ({ params: { path: { upload_id } } });
const ofStart = (start_id: number) => ({ params: { path: { start_id } } });

/** The typed client takes tuples for lists of any length: where that matters, the schema's own type is named. */
export const api = {
  session: async () => remember(await data(http.GET("/api/v1/session"))),
  signIn: async (username: string, password: string) =>
    remember(await data(http.POST("/api/v1/session", { body: { username, password } }))),
  signOut: async () => remember(await data(http.DELETE("/api/v1/session"))),
  changePassword: async (old: string, next: string) =>
    remember(await data(http.POST("/api/v1/session/password", { body: { old, new: next } }))),
  sessions: () => data(http.GET("/api/v1/session/all")),
  endOtherSessions: () => data(http.DELETE("/api/v1/session/all")),
  register: async (token: string, username: string, password: string) =>
    remember(await data(http.POST("/api/v1/session/invited", { body: { token, username, password } }))),
  invitations: () => all((query) => data(http.GET("/api/v1/invitations", { params: { query } }))),
  invite: (note: string) => data(http.POST("/api/v1/invitations", { body: { note } })),
  withdrawInvitation: (invitation_id: number) =>
    data(http.DELETE("/api/v1/invitations/{invitation_id}", { params: { path: { invitation_id } } })),
  projects: () => all((query) => data(http.GET("/api/v1/projects", { params: { query } }))),
  newestProjects: async () =>
    (await data(http.GET("/api/v1/projects", { params: { query: { limit: NEWEST } } }))).items,
  starts: () => all((query) => data(http.GET("/api/v1/starts", { params: { query } }))),
  keepStart: (project: number, name: string) =>
    data(http.POST("/api/v1/projects/{project_id}/start", { ...ofProject(project), body: { name } })),
  chooseStart: (id: number, is_default: boolean) =>
    data(http.PATCH("/api/v1/starts/{start_id}", { ...ofStart(id), body: { is_default } })),
  deleteStart: (id: number) => data(http.DELETE("/api/v1/starts/{start_id}", ofStart(id))),
  project: (id: number) =>
    data(http.GET("/api/v1/projects/{project_id}", ofProject(id))) as unknown as Promise<ProjectDetail>,
  changeProject: (id: number, change: { name?: string; archived?: boolean }) =>
    data(http.PATCH("/api/v1/projects/{project_id}", { ...ofProject(id), body: change })),
  copyProject: (id: number) => data(http.POST("/api/v1/projects/{project_id}/copy", ofProject(id))),
  deleteProject: (id: number) => data(http.DELETE("/api/v1/projects/{project_id}", ofProject(id))),
  upload,
  uploadState: (id: number) => data(http.GET("/api/v1/uploads/{upload_id}", ofUpload(id))),
  cancelUpload: (id: number) => data(http.POST("/api/v1/uploads/{upload_id}/cancel", ofUpload(id))),
  /** `matches` are keys of parts that are gone by those of new ones that take their places. */
  takeOffer: (id: number, matches: Record<string, string> = {}, as_variant = false) =>
    data(http.POST("/api/v1/uploads/{upload_id}/take", { ...ofUpload(id), body: { matches, as_variant } })),
  environments: () => all((query) => data(http.GET("/api/v1/environments", { params: { query } }))),
  deleteEnvironment: (item_id: number) =>
    data(http.DELETE("/api/v1/environments/{item_id}", { params: { path: { item_id } } })),
  profiles: () =>
    all((query) => data(http.GET("/api/v1/profiles", { params: { query } }))) as unknown as Promise<
      ProfileEntry[]
    >,
  images: () =>
    all((query) => data(http.GET("/api/v1/images", { params: { query } }))) as Promise<ImageEntry[]>,
  deleteImage: (image_id: number) =>
    data(http.DELETE("/api/v1/images/{image_id}", { params: { path: { image_id } } })),
  swatches: () => data(http.GET("/api/v1/swatches")) as Promise<SwatchEntry[]>,
  keepSwatch: (project: number, material: string, tags: string) =>
    data(http.POST("/api/v1/swatches", { body: { project, material, tags } })),
  likeSwatch: (swatch_key: string, is_favourite: boolean) =>
    data(
      http.PATCH("/api/v1/swatches/{swatch_key}", {
        params: { path: { swatch_key } },
        body: { is_favourite },
      }),
    ),
  cities: (words: string, day: string) =>
    data(http.GET("/api/v1/cities", { params: { query: { words, day } } })) as Promise<CityEntry[]>,
  rigs: () => data(http.GET("/api/v1/rigs")) as Promise<RigEntry[]>,
  keepRig: (rig: Rig) => data(http.POST("/api/v1/rigs", { body: rig })),
  takeOffRig: (rig_key: string) =>
    data(http.DELETE("/api/v1/rigs/{rig_key}", { params: { path: { rig_key } } })),
  looks: () => data(http.GET("/api/v1/looks")) as Promise<LookEntry[]>,
  keepLook: (look: NamedLook) => data(http.POST("/api/v1/looks", { body: look })),
  takeOffLook: (look_key: string) =>
    data(http.DELETE("/api/v1/looks/{look_key}", { params: { path: { look_key } } })),
  takeOffSwatch: (swatch_key: string) =>
    data(http.DELETE("/api/v1/swatches/{swatch_key}", { params: { path: { swatch_key } } })),
  deleteProfile: (profile_id: number) =>
    data(http.DELETE("/api/v1/profiles/{profile_id}", { params: { path: { profile_id } } })),
  prints: async (project: number) => {
    const params = { ...ofProject(project).params, query: { limit: NEWEST } };
    return (await data(http.GET("/api/v1/projects/{project_id}/prints", { params }))).items;
  },
  workers: async () => (await data(http.GET("/api/v1/workers", { params: { query: {} } }))).items,
  keepVariant: (project: number, group: string) =>
    data(http.POST("/api/v1/projects/{project_id}/variants", { ...ofProject(project), body: { group } })),
  queuePrint: (project: number, wanted: NewPrint) =>
    data(
      http.POST("/api/v1/projects/{project_id}/prints", {
        params: { ...ofProject(project).params, query: wanted },
      }),
    ),
  deletePrint: (id: number) => data(http.DELETE("/api/v1/prints/{print_id}", ofPrint(id))),
  retryPrint: (id: number) => data(http.POST("/api/v1/prints/{print_id}/retry", ofPrint(id))),
  holdPrint: (id: number) => data(http.POST("/api/v1/prints/{print_id}/hold", ofPrint(id))),
  goOnPrint: (id: number) => data(http.POST("/api/v1/prints/{print_id}/go-on", ofPrint(id))),
  printNext: (id: number) => data(http.POST("/api/v1/prints/{print_id}/next", ofPrint(id))),
  printBefore: ({ id, other }: { id: number; other: number }) =>
    data(
      http.POST("/api/v1/prints/{print_id}/before/{other_id}", {
        params: { path: { print_id: id, other_id: other } },
      }),
    ),
  printName: (project: number, template: string) =>
    data(
      http.GET("/api/v1/projects/{project_id}/print-name", {
        params: { path: { project_id: project }, query: { template } },
      }),
    ),
  cancelPrint: (id: number) => data(http.POST("/api/v1/prints/{print_id}/cancel", ofPrint(id))),
};

export const thumbnailUrl = (environment: EnvironmentEntry) =>
  `${BASE}environments/${environment.id}/thumbnail`;
export const imageUrl = (image: ImageEntry) => `${BASE}images/${image.id}/thumbnail`;
/** Of the swatch as it is: its address changes with what it shows. */
export const swatchUrl = (swatch: SwatchEntry) => `${BASE}swatches/${swatch.key}/picture`;
/** Of the print as it is so far: its address changes with what it shows. */
export const glimpseUrl = (print: PrintEntry) => `${BASE}prints/${print.id}/glimpse?number=${print.glimpses}`;
export const printFileUrl = (print: PrintEntry, kind: PrintEntry["files"][number]) =>
  `${BASE}prints/${print.id}/files/${kind}`;
export const packageUrl = (project: ProjectSummary, history: boolean) =>
  `${BASE}projects/${project.id}/package?history=${history}`;
export const MODELS = { glb: "GLB", usdz: "OpenUSD", obj: "OBJ" } as const;
export type ModelForm = keyof typeof MODELS;

/** Texels along a side of the images that are made of patterns, on the largest part. */
const BAKED = 1024;

/**
 * Have what is seen of a project written as a model, and save it; what the format had no word for. `baked` makes images
 * of patterns, layers and decals. Throws ApiError when that cannot be.
 */
export const saveModel = (project: number, form: ModelForm, baked = false) =>
  saved(`projects/${project}/model?form=${form}${baked ? `&bake=${BAKED}` : ""}`, "model.glb");

/** Have all that is around the asset written as one map, and save it; as `saveModel`. */
export const saveEnvironment = (project: number) =>
  saved(`projects/${project}/environment`, "environment.exr");

/** How the look of a project is written as a file: whole, or its grade as others read it. */
export type LookForm = "json" | "cdl" | "cube";
export const saveLook = (project: number, form: LookForm) =>
  saved(`projects/${project}/look?form=${form}`, `look.${form}`);

/** Have a material of a project written as a file, with what lies over it, and save it; as `saveModel`. */
export const saveMaterial = (project: number, material: string) =>
  saved(`projects/${project}/materials/${material}/file`, "material.mtlx.zip");

export async function saved(route: string, otherwise: string): Promise<string[]> {
  const answer = await fetch(BASE + route);
  if (!answer.ok) throw new ApiError(detailOf(await answer.text(), answer.status), answer.status);
  const address = URL.createObjectURL(await answer.blob());
  const link = document.createElement("a");
  link.href = address;
  link.download =
    /filename="([^"]+)"/.exec(answer.headers.get("Content-Disposition") ?? "")?.[1] ?? otherwise;
  link.click();
  URL.revokeObjectURL(address);
  return JSON.parse(decodeURIComponent(answer.headers.get("Lantern-Left-Out") ?? "[]"));
}

/** What was left out of a model, as a sentence; null when nothing was. */
export function leftOut(lost: string[]): string | null {
  if (lost.length === 0) return null;
  const more = lost.length > 3 ? ` and ${lost.length - 3} more` : "";
  return `Not in the file: ${lost.slice(0, 3).join("; ")}${more}.`;
}

export const invitationUrl = (token: string) => `${location.origin}/#/invited/${token}`;
