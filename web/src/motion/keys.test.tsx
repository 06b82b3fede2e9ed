// @vitest-environment jsdom
import { cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, test } from "vitest";
import type { Operation } from "../api/types";
import { KeyMark } from "../controls/KeyMark";
import type { Workspace } from "../store/workspace";
import { Line, openTestProject, renderIn } from "../testing/workspace";
import { withPoint } from "./EaseEditor";
import { KeyFields } from "./KeyFields";
import { copiedBy, movedBy } from "./KeyTicks";

const track = (keys: object[]) => ({
  kind: "keyed",
  name: "Look: exposure",
  enabled: true,
  path: "/look/exposure",
  keys,
});
const KEYS = [
  { time: 0, value: 1, to_next: "line" },
  { time: 2, value: 3, to_next: "hold" },
];
const open = (time: number, keys = KEYS): Workspace =>
  openTestProject({
    look: { exposure: 1 },
    shutter: { time },
    motion: { seconds: 4, rate: 25, moves: keys.length > 0 ? { a: track(keys) } : {} },
  });
const mark = <KeyMark model="Look" places={[["look"]]} name="exposure" />;
const edits = () => Line.last.sent.filter((message) => message.type === "edit");

afterEach(cleanup);

let workspace: Workspace;
beforeEach(() => {
  workspace = open(0);
});

test("a key goes no further than its neighbours, a copy of it anywhere", () => {
  const keys = [0, 1, 2].map((time) => ({ time, value: time, to_next: "line" as const }));
  const times = ([next, time]: ReturnType<typeof movedBy>) => [next.map((key) => key.time), time];
  expect(times(movedBy(keys, 1, 5, 4))).toEqual([[0, 1.999, 2], 1.999]);
  expect(times(movedBy(keys, 0, -5, 4))).toEqual([[0, 1, 2], 0]);
  expect(times(copiedBy(keys, 0, 3, 4))).toEqual([[0, 1, 2, 3], 3]);
  expect(times(copiedBy(keys, 2, -1, 4))).toEqual([[0, 1, 2], 1]);
  expect(copiedBy(keys, 2, -1, 4)[0][1]!.value).toBe(2);
  expect(times(copiedBy(keys, 1, 9, 4))).toEqual([[0, 1, 2, 4], 4]);
});

test("keys are copied, and laid in where the moment is", async () => {
  renderIn(workspace, <KeyFields id="a" move={track(KEYS) as never} />);
  fireEvent.click(screen.getByRole("button", { name: "Copy" }));
  fireEvent.click(screen.getByRole("button", { name: "Paste here" }));
  const asked = Line.last.sent.find((message) => message.type === "paste_keys");
  expect(asked).toMatchObject({ move: "a", keys: [KEYS[0]] });
});

test("a point of a curve stays within the keys", () => {
  expect(withPoint([0.42, 0, 0.58, 1], 0, -0.5, 1.5)).toEqual([0, 1, 0.58, 1]);
  expect(withPoint([0.42, 0, 0.58, 1], 1, 0.2, 0.30004)).toEqual([0.42, 0, 0.2, 0.3]);
});

test("a value without a track has no mark until the time line is open, and asks the core for its first key", () => {
  workspace = open(0, []);
  const { unmount } = renderIn(workspace, mark);
  expect(screen.queryByRole("button")).toBeNull();
  unmount();
  workspace.set({ timeline: true });
  renderIn(workspace, mark);
  fireEvent.click(screen.getByRole("button", { name: "Set a key: Exposure" }));
  expect(Line.last.sent.at(-1)).toMatchObject({ type: "toggle_keys", paths: ["/look/exposure"] });
});

test("what says what moves has no mark", () => {
  workspace.set({ timeline: true });
  renderIn(workspace, <KeyMark model="Motion" places={[["motion"]]} name="seconds" />);
  expect(screen.queryByRole("button")).toBeNull();
});

test("the mark says whether the key stands at this moment", () => {
  const { unmount } = renderIn(workspace, mark);
  expect(screen.getByRole("button", { name: "Take the key away: Exposure" })).toBeTruthy();
  unmount();
  renderIn(open(1), mark);
  expect(screen.getByRole("button", { name: "Set a key: Exposure" })).toBeTruthy();
});

test("a change of a value with a track is a key at this moment, as one step, and shown at once", () => {
  workspace = open(1);
  const gesture = workspace.begin("Exposure");
  gesture.preview([{ op: "replace", path: "/look/exposure", value: 7 }]);
  expect(workspace.getState().moved).toEqual({ "/look/exposure": 7 });
  gesture.commit();
  const [edit] = edits();
  expect(edit).toMatchObject({
    label: "Exposure",
    patch: [
      { path: "/motion/moves/a/keys", value: [KEYS[0], { time: 1, value: 7, to_next: "line" }, KEYS[1]] },
    ],
  });
  expect(workspace.getState().scene.look.exposure).toBe(1);
});

test("a change that is let go of leaves the value of the moment as it was", () => {
  workspace = open(1);
  workspace.takeMoved({ "/look/exposure": 2 });
  const gesture = workspace.begin("Exposure");
  gesture.preview([{ op: "replace", path: "/look/exposure", value: 7 }]);
  gesture.cancel();
  expect(workspace.getState().moved).toEqual({ "/look/exposure": 2 });
  expect(edits()).toEqual([]);
});

test("what is taken over whole is laid on as it is, also where a track goes with it", () => {
  const whole: Operation[] = [
    { op: "remove", path: "/motion/moves/a" },
    { op: "replace", path: "/look/exposure", value: 5 },
  ];
  workspace.commit(whole, "Restore");
  expect(edits()[0]).toMatchObject({ patch: whole });
  expect(workspace.getState().scene.look.exposure).toBe(5);
});

test("a document that arrives meanwhile leaves the key in the hand", () => {
  workspace = open(1);
  const gesture = workspace.begin("Exposure");
  gesture.preview([{ op: "replace", path: "/look/exposure", value: 7 }]);
  const { scene: _, ...rest } = {
    scene: null,
    type: "document",
    revision: 2,
    can_undo: true,
    can_redo: false,
  };
  Line.last.receive({ ...rest, scene: workspace.getState().committed });
  expect(workspace.getState().scene.look.exposure).toBe(1);
  const [move] = Object.values(workspace.getState().scene.motion.moves);
  expect(move?.kind === "keyed" && move.keys.length).toBe(3);
  gesture.cancel();
});

test("how a key goes on is chosen, and a curve begins soft", () => {
  renderIn(workspace, <KeyFields id="a" move={track(KEYS) as never} />);
  fireEvent.click(screen.getByRole("button", { name: "Curve" }));
  const [edit] = edits();
  expect(edit).toMatchObject({ patch: [{ value: [{ to_next: [0.42, 0, 0.58, 1] }, KEYS[1]] }] });
});
