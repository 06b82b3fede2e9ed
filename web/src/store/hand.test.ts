import { beforeEach, describe, expect, it } from "vitest";
import type { Operation } from "../api/types";
import { Hand } from "./hand";

const dolly: Operation[] = [{ op: "replace", path: "/camera/position", value: [1, 2, 3] }];
const exposure: Operation[] = [{ op: "replace", path: "/look/exposure", value: 1 }];

describe("hand", () => {
  let shown: Operation[][];
  let stored: [string, Operation[]][];
  let hand: Hand;

  beforeEach(() => {
    shown = [];
    stored = [];
    hand = new Hand({
      show: (patch) => shown.push(patch),
      store: (patch, label) => stored.push([label, patch]),
    });
  });

  it("shows what it holds and stores it once", () => {
    const gesture = hand.begin("Dolly");
    gesture.preview(exposure);
    gesture.preview(dolly);
    expect(hand.patch).toBe(dolly);
    gesture.commit();
    gesture.commit();
    gesture.cancel();
    gesture.preview(exposure);
    expect(stored).toEqual([["Dolly", dolly]]);
    expect(shown).toEqual([exposure, dolly]);
    expect(hand.patch).toBeNull();
  });

  it("loses nothing when a second gesture begins before the first has ended", () => {
    const wheel = hand.begin("Dolly");
    wheel.preview(dolly);
    const slider = hand.begin("Exposure");
    expect(stored).toEqual([["Dolly", dolly]]);
    expect(wheel.isOver()).toBe(true);
    wheel.commit(); // its timer, a quarter of a second later
    slider.preview(exposure);
    slider.commit();
    expect(stored).toEqual([
      ["Dolly", dolly],
      ["Exposure", exposure],
    ]);
  });

  it("takes back what was shown when it is cancelled, or when nothing was done", () => {
    const gesture = hand.begin("Exposure");
    gesture.preview(exposure);
    gesture.cancel();
    hand.begin("Orbit").commit();
    expect(stored).toEqual([]);
    expect(shown).toEqual([exposure, [], []]);
  });

  it("lets go of what it holds when it is asked to", () => {
    hand.letGo();
    hand.begin("Exposure").preview(exposure);
    hand.letGo();
    hand.letGo();
    expect(stored).toEqual([["Exposure", exposure]]);
  });
});
