import { describe, expect, it } from "vitest";
import { standingOf } from "./standing";

describe("standing", () => {
  it("says what becomes of the edits", () => {
    expect(standingOf("open", 0, true, true).text).toBe("Saved");
    expect(standingOf("open", 2, true, true).text).toBe("Saving");
    expect(standingOf("lost", 1, true, true).text).toBe("Reconnecting, 1 edit waits");
    expect(standingOf("lost", 3, true, false).text).toBe("Offline, 3 edits wait");
    expect(standingOf("signed-out", 0, true, true).state).toBe("lost");
  });

  it("does not call the first connection a new one", () => {
    expect(standingOf("connecting", 0, false, true).state).toBe("opening");
    expect(standingOf("connecting", 0, true, true).state).toBe("reconnecting");
  });
});
