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

  const pane = (way: "proof" | "clay") => ({
    pane: 0,
    width: 800,
    height: 500,
    scale: "fit" as const,
    way,
    wire: false,
    isolines: false,
    before: false,
    edge: null,
    look: null,
    solo: null,
    marks: "none" as const,
    focus_plane: false,
    fault: null,
    camera: null,
    under: { edition: null, shot: null, conditions: null },
    loupe: null,
    selected: [],
    visible: true,
  });

  it("sends everything again that was not acknowledged, under the same names, and the newest state of the panes", () => {
    const [first] = Wire.all;
    first!.open();
    socket.setPane(pane("proof"));
    socket.setPane(pane("clay"));
    socket.edit([{ op: "replace", path: "/look/exposure", value: 1 }], "Exposure", 1);
    socket.edit([{ op: "replace", path: "/look/exposure", value: 2 }], "Exposure", 1);
    socket.undo();
    const names = first!.sent.filter((m) => m.request).map((m) => m.request);
    first!.onmessage?.({ data: JSON.stringify({ type: "committed", request: names[0], revision: 2 }) });
    expect(socket.unsent).toBe(2);
    first!.drop();
    vi.advanceTimersByTime(300);
    Wire.all[1]!.open();
    expect(Wire.all[1]!.sent.map((m) => [m.type, m.request ?? m.way])).toEqual([
      ["pane", "clay"],
      ["edit", names[1]],
      ["undo", names[2]],
    ]);
    expect(states).toEqual(["connecting", "open", "lost", "connecting", "open"]);
  });

  it("gives its changes names that no other window gives", () => {
    const other = new ViewportSocket(3, { onMessage: () => {}, onFrame: () => {}, onConnection: () => {} });
    for (const wire of Wire.all) wire.open();
    socket.undo();
    other.undo();
    expect(Wire.all[0]!.sent[0]!.request).not.toBe(Wire.all[1]!.sent[0]!.request);
    other.close();
  });

  it("answers questions, with nothing when the line breaks first", async () => {
    const [first] = Wire.all;
    first!.open();
    const answered = socket.ask("bounds", 0, { parts: ["a"] });
    const asked = first!.sent.at(-1)!.request;
    first!.onmessage?.({ data: JSON.stringify({ type: "bounds", asked, box: [[0], [1]] }) });
    expect(await answered).toMatchObject({ box: [[0], [1]] });
    const lost = socket.ask("bounds", 0);
    first!.drop();
    expect(await lost).toBeNull();
    expect(await socket.ask("bounds", 0)).toBeNull();
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
