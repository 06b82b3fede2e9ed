// @vitest-environment jsdom
import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { Canceled } from "../api/client";
import type { PrintEntry, UploadState } from "../api/types";
import { bringIn, type Progress } from "../api/uploads";
import { bring, forget, secondsLeft, useJobs } from "../store/jobs";
import { Tray } from "./Tray";

vi.mock("../api/uploads");

/** An import whose course the test decides. */
function beginImport(name: string) {
  let follow: (progress: Progress) => void = () => {};
  let end: { done: (state: UploadState & { result: number }) => void; fail: (error: Error) => void };
  vi.mocked(bringIn).mockImplementationOnce(
    (_kind, _file, onProgress, signal) =>
      new Promise((done, fail) => {
        follow = onProgress;
        end = { done, fail };
        signal?.addEventListener("abort", () => fail(new Canceled()));
      }),
  );
  const result = bring("asset", new File([], name));
  return {
    result,
    at: (stage: string, share: number) => act(() => follow({ stage, share })),
    done: (project: number) =>
      act(async () => end.done({ result: project } as UploadState & { result: number })),
    fail: (text: string) => act(async () => end.fail(new Error(text))),
  };
}

let jobs: ReturnType<typeof useJobs> = [];
function Watch() {
  jobs = useJobs();
  return null;
}
const show = (prints: Partial<PrintEntry>[] = [], onStop = () => {}) => {
  render(
    <>
      <Watch />
      <Tray printing={{ prints: prints as PrintEntry[], onStop, onShow: () => {} }} />
    </>,
  );
  fireEvent.click(screen.getByRole("button", { name: /^Tray/ }));
};

describe("the tray", () => {
  afterEach(() => {
    for (const { id } of jobs) act(() => forget(id));
    cleanup();
  });

  it("says that nothing runs", () => {
    show();
    expect(screen.getByText(/Nothing runs/)).toBeTruthy();
  });

  it("follows an import and opens what it has become", async () => {
    show();
    const lamp = beginImport("lamp.glb");
    await lamp.at("Reading", 0.4);
    expect(screen.getByText(/Reading 40 %/)).toBeTruthy();
    expect(screen.queryByRole("link", { name: "Open" })).toBeNull();
    await lamp.done(7);
    expect(await lamp.result).toBe(7);
    expect(screen.getByRole("link", { name: "Open" }).getAttribute("href")).toBe("#/projects/7");
    fireEvent.click(screen.getByRole("link", { name: "Open" }));
    expect(jobs).toEqual([]);
  });

  it("stops an import, of which nothing is left then", async () => {
    show();
    const lamp = beginImport("lamp.glb");
    await lamp.at("Uploading", 0.1);
    fireEvent.click(screen.getByRole("button", { name: "Stop: lamp.glb" }));
    await act(async () => expect(await lamp.result).toBeNull());
    expect(jobs).toEqual([]);
  });

  it("keeps one that has failed, with the reason, until it is taken out", async () => {
    show();
    const lamp = beginImport("lamp.glb");
    await lamp.fail("lamp.glb: part 3 has no corners");
    expect(await lamp.result).toBeNull();
    expect(screen.getByText("lamp.glb: part 3 has no corners")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Take out of the tray: lamp.glb" }));
    expect(screen.getByText(/Nothing runs/)).toBeTruthy();
  });

  it("shows prints that are being made, and stops them", () => {
    const onStop = vi.fn();
    const print = { id: 4, state: "running", samples: 100, samples_done: 25, seconds_left: 90 } as const;
    show([print, { ...print, id: 5, state: "done" }], onStop);
    expect(screen.getByText(/Printing 25 %/)).toBeTruthy();
    expect(screen.queryByText("Print 5")).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "Stop: Print 4" }));
    expect(onStop).toHaveBeenCalledWith(4);
  });

  it("foresees the end from the pace so far", () => {
    expect(secondsLeft({ share: 0.25, began: 1000 }, 11_000)).toBeCloseTo(30);
    expect(secondsLeft({ share: 0.01, began: 1000 }, 11_000)).toBeNull();
  });
});
