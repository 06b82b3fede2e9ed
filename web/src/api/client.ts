/** The REST API: one function a call; errors carry the server's own sentence. */
import { newKey } from "./keys";
import type {
  EnvironmentEntry,
  InvitationEntry,
  MadeInvitation,
  OpenSession,
  PrintEntry,
  ProfileEntry,
  ProjectDetail,
  ProjectSummary,
  Session,
  StartEntry,
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
/** Waits before a request is sent again whose answer did not arrive. */
const AGAIN_MS = [400, 1600];
/** What may be sent again without being done twice; a POST has a key by which the server knows it. */
const REPEATABLE = ["GET", "PATCH", "POST"];

async function call<T>(method: string, path: string, body?: unknown): Promise<T> {
  const headers: Record<string, string> = { "X-CSRFToken": csrfToken };
  if (method === "POST") headers["Idempotency-Key"] = newKey();
  const request: RequestInit = { method, headers };
  if (body !== undefined) {
    headers["Content-Type"] = "application/json";
    request.body = JSON.stringify(body);
  }
  const response = await sent(path, request, REPEATABLE.includes(method) ? AGAIN_MS : []);
  const text = await response.text();
  if (response.status === 401) dispatchEvent(new Event(SIGNED_OUT));
  if (!response.ok) throw new ApiError(detailOf(text, response.status), response.status);
  return (text ? JSON.parse(text) : undefined) as T;
}

async function sent(path: string, request: RequestInit, waits: number[]): Promise<Response> {
  try {
    return await fetch(BASE + path, request);
  } catch {
    const [wait, ...later] = waits;
    if (wait === undefined) throw new ApiError("The server cannot be reached. Is it still running?", 0);
    await new Promise((resolve) => setTimeout(resolve, wait));
    return sent(path, request, later);
  }
}

/** Everything of a list, page after page. */
async function all<T>(path: string): Promise<T[]> {
  const found: T[] = [];
  for (;;) {
    const page = await call<{ items: T[]; count: number }>("GET", `${path}?limit=500&offset=${found.length}`);
    found.push(...page.items);
    if (page.items.length === 0 || found.length >= page.count) return found;
  }
}

const newest = async <T>(path: string) => (await call<{ items: T[] }>("GET", `${path}?limit=50`)).items;

function detailOf(text: string, status: number): string {
  try {
    const { detail } = JSON.parse(text) as { detail?: unknown };
    if (typeof detail === "string") return detail;
  } catch {
    // not JSON: an error page
  }
  return `The server answered with an error (${status}).`;
}

function remember(session: Session): Session {
  csrfToken = session.csrf_token;
  return session;
}

/** Send a file with progress [0, 1]; fetch cannot report it. */
function upload(
  kind: string,
  file: File,
  onProgress: (share: number) => void,
  signal?: AbortSignal,
  start?: number,
): Promise<UploadState> {
  return new Promise((resolve, reject) => {
    const form = new FormData();
    if (start !== undefined) form.append("start", `${start}`);
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

export const api = {
  session: async () => remember(await call<Session>("GET", "session")),
  signIn: async (username: string, password: string) =>
    remember(await call<Session>("POST", "session", { username, password })),
  signOut: async () => remember(await call<Session>("DELETE", "session")),
  changePassword: async (old: string, next: string) =>
    remember(await call<Session>("POST", "session/password", { old, new: next })),
  sessions: () => call<OpenSession[]>("GET", "session/all"),
  endOtherSessions: () => call<void>("DELETE", "session/all"),
  register: async (token: string, username: string, password: string) =>
    remember(await call<Session>("POST", "session/invited", { token, username, password })),
  invitations: () => all<InvitationEntry>("invitations"),
  invite: (note: string) => call<MadeInvitation>("POST", "invitations", { note }),
  withdrawInvitation: (id: number) => call<void>("DELETE", `invitations/${id}`),
  projects: () => all<ProjectSummary>("projects"),
  newestProjects: () => newest<ProjectSummary>("projects"),
  starts: () => all<StartEntry>("starts"),
  keepStart: (project: number, name: string) =>
    call<StartEntry>("POST", `projects/${project}/start`, { name }),
  chooseStart: (id: number, is_default: boolean) => call<StartEntry>("PATCH", `starts/${id}`, { is_default }),
  deleteStart: (id: number) => call<void>("DELETE", `starts/${id}`),
  project: (id: number) => call<ProjectDetail>("GET", `projects/${id}`),
  changeProject: (id: number, change: { name?: string; archived?: boolean }) =>
    call<ProjectSummary>("PATCH", `projects/${id}`, change),
  copyProject: (id: number) => call<ProjectSummary>("POST", `projects/${id}/copy`),
  deleteProject: (id: number) => call<void>("DELETE", `projects/${id}`),
  upload,
  uploadState: (id: number) => call<UploadState>("GET", `uploads/${id}`),
  cancelUpload: (id: number) => call<UploadState>("POST", `uploads/${id}/cancel`),
  environments: () => all<EnvironmentEntry>("environments"),
  deleteEnvironment: (id: number) => call<void>("DELETE", `environments/${id}`),
  profiles: () => all<ProfileEntry>("profiles"),
  deleteProfile: (id: number) => call<void>("DELETE", `profiles/${id}`),
  prints: (project: number) => newest<PrintEntry>(`projects/${project}/prints`),
  queuePrint: (project: number) => call<PrintEntry>("POST", `projects/${project}/prints`),
  deletePrint: (id: number) => call<void>("DELETE", `prints/${id}`),
  retryPrint: (id: number) => call<PrintEntry>("POST", `prints/${id}/retry`),
  cancelPrint: (id: number) => call<PrintEntry>("POST", `prints/${id}/cancel`),
};

export const thumbnailUrl = (environment: EnvironmentEntry) =>
  `${BASE}environments/${environment.id}/thumbnail`;
export const printFileUrl = (print: PrintEntry, kind: "png" | "exr") =>
  `${BASE}prints/${print.id}/files/${kind}`;
export const packageUrl = (project: ProjectSummary, history: boolean) =>
  `${BASE}projects/${project.id}/package?history=${history}`;
export const invitationUrl = (token: string) => `${location.origin}/#/invited/${token}`;
