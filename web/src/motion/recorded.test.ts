import { expect, test } from "vitest";
import type { Keyed, Scene } from "../api/types";
import { recorded, retimed, withKey } from "./recorded";

const key = (time: number, value: number, to_next: Keyed["keys"][number]["to_next"] = "line") => ({
  time,
  value,
  to_next,
});

test("a key takes its place in the row, and one that is there keeps how it goes on", () => {
  const keys = [key(0, 1, "hold"), key(2, 3, "line")];
  expect(withKey(keys, 1, 5)).toEqual([key(0, 1, "hold"), key(1, 5, "hold"), key(2, 3)]);
  expect(withKey(keys, 0.00001, 7)).toEqual([key(0, 7, "hold"), key(2, 3)]);
  expect(withKey(keys, 9, 4)).toEqual([...keys, key(9, 4, "line")]);
  expect(withKey(keys, -1, 4)[0]).toEqual(key(-1, 4, "line"));
});

test("keys go from another first moment to another last, each where it was in between", () => {
  const keys = [key(1, 1, "hold"), key(2, 3), key(5, 4)];
  expect(retimed(keys, 0, 2).map(({ time }) => time)).toEqual([0, 0.5, 2]);
  expect(retimed(keys, 3, 7).map(({ time, ...rest }) => rest)).toEqual(keys.map(({ time, ...rest }) => rest));
  expect(retimed([key(1, 1)], 4, 4)).toEqual([key(4, 1)]);
});

test("only places with a track are recorded, at the moment that is shown", () => {
  const track = { kind: "keyed", name: "E", enabled: true, path: "/look/exposure", keys: [key(0, 0)] };
  const off = { ...track, enabled: false, path: "/camera/roll" };
  const scene = { shutter: { time: 1.5 }, motion: { moves: { a: track, b: off } } } as unknown as Scene;
  const patch = [
    { op: "replace", path: "/look/exposure", value: 2 },
    { op: "replace", path: "/camera/roll", value: 5 },
  ] as const;
  const found = recorded(scene, [...patch]);
  expect(found.moved).toEqual({ "/look/exposure": 2 });
  expect(found.patch).toEqual([
    { op: "replace", path: "/motion/moves/a/keys", value: [key(0, 0), key(1.5, 2)] },
    patch[1],
  ]);
});
