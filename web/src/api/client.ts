/** The REST API: one function a call; errors carry the server's own sentence. */
import type {
  EnvironmentEntry,
  OpenSession,
  PrintEntry,
  ProfileEntry,
  ProjectDetail,
  ProjectSummary,
  Session,
  UploadState,
} from "./types";

let csrfToken = "";

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

async function call<T>(method: string, path: string, body?: unknown): Promise<T> {
  const headers: Record<string, string> = { "X-CSRFToken": csrfToken };
  const request: RequestInit = { method, headers };
  if (body !== undefined) {
    headers["Content-Type"] = "application/json";
    request.body = JSON.stringify(body);
  }
  let response: Response;
  try {
    response = await fetch(`/api/v1/${path}`, request);
  } catch {
    throw new ApiError("The server cannot be reached. Is it still running?", 0);
  }
  const text = await response.text();
  if (!response.ok) throw new ApiError(detailOf(text, response.status), response.status);
  return (text ? JSON.parse(text) : undefined) as T;
}

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
): Promise<UploadState> {
  return new Promise((resolve, reject) => {
    const form = new FormData();
    form.append("file", file);
    const request = new XMLHttpRequest();
    request.open("POST", `/api/v1/intake/${kind}`);
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
  projects: () => call<ProjectSummary[]>("GET", "projects"),
  project: (id: number) => call<ProjectDetail>("GET", `projects/${id}`),
  changeProject: (id: number, change: { name?: string; archived?: boolean }) =>
    call<ProjectSummary>("PATCH", `projects/${id}`, change),
  copyProject: (id: number) => call<ProjectSummary>("POST", `projects/${id}/copy`),
  deleteProject: (id: number) => call<void>("DELETE", `projects/${id}`),
  upload,
  uploadState: (id: number) => call<UploadState>("GET", `uploads/${id}`),
  cancelUpload: (id: number) => call<UploadState>("POST", `uploads/${id}/cancel`),
  environments: () => call<EnvironmentEntry[]>("GET", "environments"),
  profiles: () => call<ProfileEntry[]>("GET", "profiles"),
  prints: (project: number) => call<PrintEntry[]>("GET", `projects/${project}/prints`),
  queuePrint: (project: number) => call<PrintEntry>("POST", `projects/${project}/prints`),
  deletePrint: (id: number) => call<void>("DELETE", `prints/${id}`),
  retryPrint: (id: number) => call<PrintEntry>("POST", `prints/${id}/retry`),
  cancelPrint: (id: number) => call<PrintEntry>("POST", `prints/${id}/cancel`),
};

export const thumbnailUrl = (environment: EnvironmentEntry) =>
  `/api/v1/environments/${environment.id}/thumbnail`;
export const printFileUrl = (print: PrintEntry, kind: "png" | "exr") =>
  `/api/v1/prints/${print.id}/files/${kind}`;
