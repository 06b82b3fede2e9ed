import { expect, test } from "vitest";
import type { Scene } from "../api/types";
import { whyFixed } from "./fixed";

const scene = (move?: object) =>
  ({ shots: { a: {}, b: {} }, motion: { moves: move ? { m: move } : {} } }) as unknown as Scene;
const travel = { kind: "travel", name: "A to B", enabled: true, first: "a", last: "b" };

test("a locked shot and a camera that is led say so, and nothing else does", () => {
  expect(whyFixed({ locked: true, scene: scene() }, 0)).toBe("The shot is locked");
  expect(whyFixed({ locked: false, scene: scene(travel) }, 0)).toBe("The time line leads the camera: A to B");
  expect(whyFixed({ locked: false, scene: scene({ ...travel, enabled: false }) }, 0)).toBeNull();
  expect(whyFixed({ locked: false, scene: scene({ ...travel, last: "gone" }) }, 0)).toBeNull();
  expect(whyFixed({ locked: false, scene: scene({ ...travel, kind: "turntable" }) }, 0)).toBeNull();
  const keyed = { kind: "keyed", name: "Keys", enabled: true, path: "/camera/position" };
  expect(whyFixed({ locked: false, scene: scene(keyed) }, 0)).toContain("Keys");
  expect(whyFixed({ locked: true, scene: scene(travel) }, 1)).toBeNull();
});
