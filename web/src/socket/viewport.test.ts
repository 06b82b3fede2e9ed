import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { type Connection, ViewportSocket } from "./viewport";

/** A WebSocket whose server is the test. */
class Wire {
  static readonly OPEN = 1;
  static all: Wire[] = [];
  readyState = 0;
  sent: Record<string, unknown>[] = [];
  binaryType = "";
  onopen?: () => void;
  onclose?: (event: { code: number }) => void;
  onmessage?: (event: { data: string }) => void;
  constructor(readonly url: string) {
    Wire.all.push(this);
  }
  send(text: string) {
    this.sent.push(JSON.parse(text));
  }
  close() {}
  open() {
    this.readyState = 1;
    this.onopen?.();
  }
  drop(code = 1006) {
    this.readyState = 3;
    this.onclose?.({ code });
  }
}

describe("ViewportSocket", () => {
  const states: Connection[] = [];
  let socket: ViewportSocket;

  beforeEach(() => {
    vi.useFakeTimers();
    vi.stubGlobal("WebSocket", Wire);
    vi.stubGlobal("location", { protocol: "http:", host: "here" });
    Wire.all = [];
    states.length = 0;
    socket = new ViewportSocket(3, {
      onMessage: () => {},
      onFrame: () => {},
      onConnection: (c) => states.push(c),
    });
  });
  afterEach(() => {
    socket.close();
    vi.useRealTimers();
    vi.unstubAllGlobals();
  });

  it("sends edits again that were not acknowledged, and the size of the view, but no undo", () => {
    const [first] = Wire.all;
    first!.open();
    socket.resize(800, 500);
    socket.edit([{ op: "replace", path: "/look/exposure", value: 1 }], "Exposure");
    socket.edit([{ op: "replace", path: "/look/exposure", value: 2 }], "Exposure");
    socket.undo();
    first!.onmessage?.({ data: JSON.stringify({ type: "committed", request: 1, revision: 2 }) });
    expect(socket.saved).toBe(false);
    first!.drop();
    vi.advanceTimersByTime(300);
    Wire.all[1]!.open();
    expect(Wire.all[1]!.sent.map((m) => [m.type, m.request])).toEqual([
      ["size", undefined],
      ["edit", 2],
    ]);
    expect(states).toEqual(["connecting", "open", "lost", "connecting", "open"]);
  });

  it("waits longer each time", () => {
    for (const wait of [250, 500, 1000, 2000]) {
      const count = Wire.all.length;
      Wire.all.at(-1)!.drop();
      vi.advanceTimersByTime(wait - 1);
      expect(Wire.all).toHaveLength(count);
      vi.advanceTimersByTime(1);
      expect(Wire.all).toHaveLength(count + 1);
    }
  });

  it("does not try again when the project is not there", () => {
    Wire.all[0]!.drop(4404);
    vi.advanceTimersByTime(60_000);
    expect(Wire.all).toHaveLength(1);
    expect(states.at(-1)).toBe("unknown-project");
  });
});
