/** The REST API: one function a call; errors carry the server's own sentence. */
import type {
  EnvironmentEntry,
  ImportState,
  PrintEntry,
  ProfileEntry,
  ProjectDetail,
  ProjectSummary,
  Session,
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

async function call<T>(method: string, path: string, body?: unknown): Promise<T> {
  const headers: Record<string, string> = { "X-CSRFToken": csrfToken };
  const request: RequestInit = { method, headers };
  if (body !== undefined) {
    headers["Content-Type"] = "application/json";
    request.body = JSON.stringify(body);
  }
  let response: Response;
  try {
    response = await fetch(`/api/${path}`, request);
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
function upload<T>(path: string, file: File, onProgress: (share: number) => void): Promise<T> {
  return new Promise((resolve, reject) => {
    const form = new FormData();
    form.append("file", file);
    const request = new XMLHttpRequest();
    request.open("POST", `/api/${path}`);
    request.setRequestHeader("X-CSRFToken", csrfToken);
    request.upload.onprogress = (event) => event.lengthComputable && onProgress(event.loaded / event.total);
    request.onerror = () => reject(new ApiError("The upload was interrupted. Try it again.", 0));
    request.onload = () =>
      request.status < 300
        ? resolve(JSON.parse(request.responseText) as T)
        : reject(new ApiError(detailOf(request.responseText, request.status), request.status));
    request.send(form);
  });
}

export const api = {
  session: async () => remember(await call<Session>("GET", "session")),
  signIn: async (username: string, password: string) =>
    remember(await call<Session>("POST", "session", { username, password })),
  signOut: async () => remember(await call<Session>("DELETE", "session")),
  projects: () => call<ProjectSummary[]>("GET", "projects"),
  project: (id: number) => call<ProjectDetail>("GET", `projects/${id}`),
  deleteProject: (id: number) => call<void>("DELETE", `projects/${id}`),
  importAsset: (file: File, onProgress: (share: number) => void) =>
    upload<ImportState>("imports", file, onProgress),
  importState: (id: number) => call<ImportState>("GET", `imports/${id}`),
  environments: () => call<EnvironmentEntry[]>("GET", "environments"),
  addEnvironment: (file: File, onProgress: (share: number) => void) =>
    upload<EnvironmentEntry>("environments", file, onProgress),
  profiles: () => call<ProfileEntry[]>("GET", "profiles"),
  addProfile: (file: File, onProgress: (share: number) => void) =>
    upload<ProfileEntry>("profiles", file, onProgress),
  prints: (project: number) => call<PrintEntry[]>("GET", `projects/${project}/prints`),
  queuePrint: (project: number) => call<PrintEntry>("POST", `projects/${project}/prints`),
  cancelPrint: (id: number) => call<PrintEntry>("POST", `prints/${id}/cancel`),
};

export const thumbnailUrl = (environment: EnvironmentEntry) =>
  `/api/environments/${environment.id}/thumbnail`;
export const printFileUrl = (print: PrintEntry, kind: "png" | "exr") =>
  `/api/prints/${print.id}/files/${kind}`;
