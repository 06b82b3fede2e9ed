/** Where a showing comes from: the server, by the token of its link, or the file that it was written into. */
import type { FromVisitor, SeenComment, SeenShowing, ToVisitor } from "../api/types";
import { type Frame, readFrame } from "../socket/frame";

declare global {
  interface Window {
    SHOWING?: SeenShowing;
  }
}

/** Written into the page itself: there is no server. */
export const written = (): SeenShowing | undefined => window.SHOWING;

/** The server said no; a password is asked for when `asks`. */
export class Closed extends Error {
  constructor(
    message: string,
    readonly asks: boolean,
  ) {
    super(message);
  }
}

const BASE = "/api/v1/";
let csrf = "";

async function ask<T>(path: string, body?: unknown): Promise<T> {
  const answer = await fetch(`${BASE}${path}`, {
    ...(body !== undefined && { method: "POST", body: JSON.stringify(body) }),
    headers: { "Content-Type": "application/json", "X-CSRFToken": csrf },
  }).catch(() => {
    throw new Closed("The server cannot be reached. Try again in a moment.", false);
  });
  const told = (await answer.json().catch(() => ({}))) as { detail?: string };
  if (!answer.ok) throw new Closed(told.detail ?? "Something went wrong. Try again.", answer.status === 401);
  return told as T;
}

export interface Remark {
  name: string;
  text?: string;
  pin?: readonly [number, number] | null;
  chosen?: boolean;
}

export const server = {
  enter: async (token: string, password: string) => {
    csrf = (await ask<{ csrf_token: string }>("session")).csrf_token;
    return ask<SeenShowing>("visits", { token, password });
  },
  again: (showing: number) => ask<SeenShowing>(`visits/${showing}`),
  say: (showing: number, slide: number, remark: Remark) =>
    ask<SeenComment>(`visits/${showing}/pictures/${slide}/remarks`, remark),
};

/** Closed by the server: the showing is over, or as many look as can. */
const [OVER, FULL] = [4404, 4429];
const AGAIN_MS = 3000;

/** The line of a page to the others that look; it comes back by itself. */
export class Line {
  private socket: WebSocket | undefined;
  private timer = 0;
  private ended = false;
  private wasOpen = false;

  constructor(
    private readonly showing: number,
    private readonly hear: (message: ToVisitor) => void,
    private readonly see: (frame: Frame) => void,
    private readonly opened: (again: boolean) => void,
    private readonly over: () => void,
  ) {
    this.open();
  }

  private open() {
    const scheme = location.protocol === "https:" ? "wss" : "ws";
    const socket = new WebSocket(`${scheme}://${location.host}/socket/showings/${this.showing}`);
    this.socket = socket;
    socket.onopen = () => {
      this.opened(this.wasOpen);
      this.wasOpen = true;
    };
    socket.binaryType = "arraybuffer";
    socket.onmessage = ({ data }: MessageEvent<string | ArrayBuffer>) => {
      if (typeof data === "string") return this.hear(JSON.parse(data) as ToVisitor);
      this.send({ type: "shown" });
      this.see(readFrame(data));
    };
    socket.onclose = ({ code }) => {
      if (code === OVER) this.over();
      if (!this.ended && code !== OVER && code !== FULL) {
        this.timer = window.setTimeout(() => this.open(), AGAIN_MS);
      }
    };
  }

  send(message: FromVisitor) {
    if (this.socket?.readyState === WebSocket.OPEN) this.socket.send(JSON.stringify(message));
  }

  close() {
    this.ended = true;
    clearTimeout(this.timer);
    this.socket?.close();
  }
}
