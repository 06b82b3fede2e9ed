/**
 * The one connection to the server's viewport: sends edits and questions, hands on messages and frames,
 * reconnects with back-off, and sends again what was not acknowledged.
 */
import type { Camera, Operation, Scene } from "../api/types";
import { type Frame, readFrame } from "./frame";

export interface Status {
  samples: number;
  wanted: number;
  settled: boolean;
  running: boolean;
  width: number;
  height: number;
  noise: number | null;
  seconds: number;
  seconds_left: number;
  rays_per_second: number;
}

export type ServerMessage =
  | { type: "document"; revision: number; scene: Scene; can_undo: boolean; can_redo: boolean }
  | { type: "committed"; request: number; revision: number }
  | { type: "refused"; request: number | null; message: string }
  | { type: "host"; state: "starting" | "ready" | "restarting" | "failed" }
  | { type: "running"; running: boolean }
  | { type: "opened"; triangles: number; parts: number }
  | { type: "problems"; problems: string[] }
  | { type: "error"; message: string }
  | { type: "picked"; part: string | null }
  | { type: "fitted"; camera: Camera | null }
  | ({ type: "status" } & Status);

export type Connection = "connecting" | "open" | "lost" | "unknown-project";

interface Listener {
  onMessage: (message: ServerMessage) => void;
  onFrame: (frame: Frame) => void;
  onConnection: (connection: Connection) => void;
}

interface Commit {
  type: "edit" | "undo" | "redo";
  request: number;
  patch?: Operation[];
  label?: string;
}

const UNKNOWN_PROJECT = 4404;
const FIRST_WAIT_MS = 250;
const LONGEST_WAIT_MS = 8000;

export class ViewportSocket {
  private socket: WebSocket | null = null;
  private wait = FIRST_WAIT_MS;
  private closed = false;
  private request = 0;
  private serial = 0;
  private readonly unacknowledged = new Map<number, Commit>();
  private size: { width: number; height: number } | null = null;

  constructor(
    private readonly project: number,
    private readonly listener: Listener,
  ) {
    this.connect();
  }

  private connect(): void {
    this.listener.onConnection("connecting");
    const scheme = location.protocol === "https:" ? "wss" : "ws";
    const socket = new WebSocket(`${scheme}://${location.host}/socket/projects/${this.project}`);
    socket.binaryType = "arraybuffer";
    this.socket = socket;
    socket.onopen = () => {
      this.wait = FIRST_WAIT_MS;
      this.listener.onConnection("open");
      if (this.size) this.send({ type: "size", ...this.size });
      this.sendAgain();
    };
    socket.onmessage = (event: MessageEvent<string | ArrayBuffer>) => {
      if (typeof event.data === "string") this.receive(JSON.parse(event.data) as ServerMessage);
      else this.listener.onFrame(readFrame(event.data));
    };
    socket.onclose = (event) => {
      if (this.closed) return;
      if (event.code === UNKNOWN_PROJECT) {
        this.listener.onConnection("unknown-project");
        return;
      }
      this.listener.onConnection("lost");
      setTimeout(() => !this.closed && this.connect(), this.wait);
      this.wait = Math.min(this.wait * 2, LONGEST_WAIT_MS);
    };
  }

  /** Edits replace values, so one that did arrive may arrive twice; an undo may not, and is dropped instead. */
  private sendAgain(): void {
    for (const [request, commit] of this.unacknowledged) {
      if (commit.type === "edit") this.send(commit);
      else this.unacknowledged.delete(request);
    }
  }

  private receive(message: ServerMessage): void {
    if (message.type === "committed" || (message.type === "refused" && message.request !== null))
      this.unacknowledged.delete(message.request as number);
    this.listener.onMessage(message);
  }

  private send(message: object): boolean {
    if (this.socket?.readyState !== WebSocket.OPEN) return false;
    this.socket.send(JSON.stringify(message));
    return true;
  }

  private commit(commit: Omit<Commit, "request">): void {
    const message = { ...commit, request: ++this.request };
    this.unacknowledged.set(message.request, message);
    this.send(message);
  }

  /** Whether every edit has reached the database. */
  get saved(): boolean {
    return this.unacknowledged.size === 0;
  }

  preview(patch: Operation[]): void {
    this.send({ type: "preview", patch, serial: ++this.serial });
  }

  edit(patch: Operation[], label: string): void {
    this.commit({ type: "edit", patch, label });
  }

  undo(): void {
    this.commit({ type: "undo" });
  }

  redo(): void {
    this.commit({ type: "redo" });
  }

  resize(width: number, height: number): void {
    this.size = { width, height };
    this.send({ type: "size", width, height });
  }

  setRunning(running: boolean): void {
    this.send({ type: "run", running });
  }

  pick(x: number, y: number): void {
    this.send({ type: "pick", x, y });
  }

  fit(): void {
    this.send({ type: "fit" });
  }

  close(): void {
    this.closed = true;
    this.socket?.close();
  }
}
