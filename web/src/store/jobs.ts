/**
 * What runs for the person whatever screen is open: files that are brought in. Comes in: files. Goes out: how far each
 * is, and what it has become. Used by the tray and by whoever brings a file in.
 */
import { createStore, useStore } from "zustand";
import { type Becoming, Canceled } from "../api/client";
import { newKey } from "../api/keys";
import type { SwapOffer } from "../api/types";
import { bringIn } from "../api/uploads";

export type JobKind = "asset" | "environment" | "profile" | "image" | "material" | "look" | "picture";

export interface Job {
  id: string;
  kind: JobKind;
  file: string;
  state: "running" | "done" | "failed";
  stage: string;
  /** [0, 1] */
  share: number;
  /** Milliseconds since 1970. */
  began: number;
  /** What was wrong, of one that has failed. */
  problem: string;
  /** Number of what it has become. */
  result: number | null;
}

interface JobsState {
  jobs: Job[];
}

const store = createStore<JobsState>(() => ({ jobs: [] }));
const stops = new Map<string, AbortController>();

const change = (id: string, changes: Partial<Job>) =>
  store.setState((s) => ({ jobs: s.jobs.map((job) => (job.id === id ? { ...job, ...changes } : job)) }));

interface How extends Becoming {
  /** Hears what a newer version of an asset would make of its project. */
  onOffer?: (offer: SwapOffer, upload: number) => void;
  /** Hears what was wrong, besides the tray. */
  onProblem?: (problem: string) => void;
}

/** Bring a file in; the number of what it has become, null when it was stopped or has failed. */
export async function bring(
  kind: JobKind,
  file: File,
  { onProblem, onOffer, ...becoming }: How = {},
): Promise<number | null> {
  const id = newKey();
  const stop = new AbortController();
  stops.set(id, stop);
  const job: Job = {
    id,
    kind,
    file: file.name,
    state: "running",
    stage: "Uploading",
    share: 0,
    began: Date.now(),
    problem: "",
    result: null,
  };
  store.setState((s) => ({ jobs: [...s.jobs, job] }));
  try {
    const {
      result,
      offer,
      id: upload,
    } = await bringIn(kind, file, (progress) => change(id, progress), stop.signal, becoming);
    if (offer) onOffer?.(offer, upload);
    // A map, a profile, an image or another version is put to use at once; an asset waits to be opened.
    if (kind === "asset" && !offer) change(id, { state: "done", share: 1, result });
    else forget(id);
    return result;
  } catch (error) {
    if (error instanceof Canceled) forget(id);
    else {
      const problem = (error as Error).message;
      change(id, { state: "failed", problem });
      onProblem?.(problem);
    }
    return null;
  } finally {
    stops.delete(id);
  }
}

export const stop = (id: string) => stops.get(id)?.abort();

export const forget = (id: string) =>
  store.setState((s) => ({ jobs: s.jobs.filter((job) => job.id !== id) }));

/** What has become of an asset is open: the tray need not hold it any more. */
export const forgetAsset = (project: number) =>
  store.setState((s) => ({ jobs: s.jobs.filter((job) => job.kind !== "asset" || job.result !== project) }));

export const useJobs = () => useStore(store, (s) => s.jobs);

/** Seconds that a job still takes at its pace so far; null while too little of it is done to say. */
export function secondsLeft(job: Pick<Job, "share" | "began">, now: number): number | null {
  if (job.share < 0.05) return null;
  return ((now - job.began) / 1000) * (1 / job.share - 1);
}
