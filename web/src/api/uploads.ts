/** Bringing a file in: it is sent, then read by the server in the background, until it has become something. */
import { api, Canceled } from "./client";

const POLL_MS = 200;

export interface Progress {
  stage: string;
  /** [0, 1] */
  share: number;
}

/**
 * Send a file and follow its reading; the number of what it has become.
 * `start` is the set-up with which an asset’s project begins. Throws Canceled once `signal` says stop, and ApiError or Error with the server's own sentence.
 */
export async function bringIn(
  kind: "asset" | "environment" | "profile",
  file: File,
  onProgress: (progress: Progress) => void,
  signal?: AbortSignal,
  start?: number,
): Promise<number> {
  let state = await api.upload(
    kind,
    file,
    (share) => onProgress({ stage: "Uploading", share }),
    signal,
    start,
  );
  while (state.state === "running") {
    onProgress({ stage: state.stage, share: state.share });
    await new Promise((resolve) => setTimeout(resolve, POLL_MS));
    state = signal?.aborted ? await api.cancelUpload(state.id) : await api.uploadState(state.id);
  }
  if (state.state === "canceled") throw new Canceled();
  if (state.state === "failed" || state.result === null || state.result === undefined)
    throw new Error(state.error);
  return state.result;
}
