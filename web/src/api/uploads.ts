/** Bringing a file in: it is sent, then read by the server in the background, until it has become something. */
import { api, type Becoming, Canceled } from "./client";
import type { UploadState } from "./types";

const POLL_MS = 200;

export interface Progress {
  stage: string;
  /** [0, 1] */
  share: number;
}

/**
 * Send a file and follow its reading, until it has become something, of which the number is there.
 * Throws Canceled once `signal` says stop, and ApiError or Error with the server's own sentence.
 */
export async function bringIn(
  kind: "asset" | "environment" | "profile" | "image" | "material" | "look" | "picture",
  file: File,
  onProgress: (progress: Progress) => void,
  signal?: AbortSignal,
  becoming?: Becoming,
): Promise<UploadState & { result: number }> {
  let state = await api.upload(
    kind,
    file,
    (share) => onProgress({ stage: "Uploading", share }),
    signal,
    becoming,
  );
  while (state.state === "running") {
    onProgress({ stage: state.stage, share: state.share });
    await new Promise((resolve) => setTimeout(resolve, POLL_MS));
    state = signal?.aborted ? await api.cancelUpload(state.id) : await api.uploadState(state.id);
  }
  if (state.state === "canceled") throw new Canceled();
  if (state.state === "failed" || state.result === null || state.result === undefined)
    throw new Error(state.error);
  return { ...state, result: state.result };
}
