/**
 * The one connection to the server's viewport: sends edits, panes and questions, hands on messages and pictures,
 * reconnects with back-off, and sends again what was not acknowledged.
 */
import { newKey } from "../api/keys";
import type { Operation, ServerMessage } from "../api/types";
import { type Frame, readFrame } from "./frame";
import type { PaneMessage } from "./panes";

export type Connection = "connecting" | "open" | "lost" | "unknown-project" | "signed-out";

interface Listener {
  onMessage: (message: ServerMessage) => void;
  onFrame: (frame: Frame) => void;
  onConnection: (connection: Connection) => void;
}

/** What the render host can be asked (server/protocol/browser.py). */
export type Question =
  | "pick"
  | "area"
  | "values"
  | "fit"
  | "bounds"
  | "density"
  | "make_light"
  | "make_set"
  | "make_input"
  | "make_layer"
  | "make_mask"
  | "make_relief"
  | "possible"
  | "sharp"
  | "wardrobe"
  | "stick"
  | "decal_shape"
  | "reflectance"
  | "arrange"
  | "cut"
  | "from_file"
  | "texture"
  | "take"
  | "reopen"
  | LightQuestion
  | LookQuestion
  | CameraQuestion
  | MotionQuestion
  | VariantQuestion
  | FidelityQuestion;

/** Those about light, in the order of `server/protocol/lighting.py`. */
export type LightQuestion =
  | "grip"
  | "place_light"
  | "light_from_here"
  | "copy_light"
  | "make_card"
  | "light_by"
  | "switch_sky"
  | "unrolled"
  | "profile_solid"
  | "keep_conditions"
  | "take_conditions"
  | "take_rig"
  | "turn_lights"
  | "keep_rig"
  | "lit_picture"
  | "box_haze"
  | "bake_balance"
  | "light_shares"
  | "meter"
  | "histogram"
  | "grey_card"
  | "sun_day";

/** Those about looks, in the order of `server/protocol/looks.py`. */
export type LookQuestion =
  | "look_picture"
  | "take_look"
  | "keep_look"
  | "make_local"
  | "scopes"
  | "transform_names";

/** Those about the camera and its shots, in the order of `server/protocol/cameras.py`. */
export type CameraQuestion =
  | "stand_upright"
  | "meter_exposure"
  | "frame_shape"
  | "follow_focus"
  | "focus_between"
  | "expose_by"
  | "layout_picture"
  | "match_view"
  | "keep_shot"
  | "copy_shot"
  | "take_shot"
  | "shot_picture";

/** Those about brand colours, in the order of `server/protocol/fidelity.py`. */
export type FidelityQuestion = "read_brand" | "fidelity" | "nearest_base";

/** Those about the time line, in the order of `server/protocol/motion.py`. */
export type MotionQuestion =
  | "make_turntable"
  | "make_exploded"
  | "make_travel"
  | "make_camera_move"
  | "make_sequence"
  | "make_day"
  | "make_clip"
  | "make_relight"
  | "toggle_keys"
  | "paste_keys"
  | "keyed_values";

/** Those about variants and editions, in the order of `server/protocol/variants.py`. */
export type VariantQuestion =
  | "begin_variants"
  | "take_variant"
  | "take_defaults"
  | "rewrite_variant"
  | "keep_edition"
  | "take_edition"
  | "edition_picture"
  | "variants_standing";

interface Commit {
  type: "edit" | "undo" | "redo";
  request: string;
  patch?: Operation[];
  label?: string;
  base?: number;
}

/** Why the server closes for good. */
const FINAL: Record<number, Connection> = { 4401: "signed-out", 4404: "unknown-project" };
const FIRST_WAIT_MS = 250;
const LONGEST_WAIT_MS = 8000;

export class ViewportSocket {
  private socket: WebSocket | null = null;
  private wait = FIRST_WAIT_MS;
  private closed = false;
  private readonly name = newKey();
  private request = 0;
  private serial = 0;
  private readonly unacknowledged = new Map<string, Commit>();
  private readonly questions = new Map<string, (answer: unknown) => void>();
  private readonly panes = new Map<number, PaneMessage>();

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
      for (const pane of this.panes.values()) this.send({ type: "pane", ...pane });
      // Every change has a name: one that had arrived before the line broke is not done again.
      for (const commit of this.unacknowledged.values()) this.send(commit);
    };
    socket.onmessage = (event: MessageEvent<string | ArrayBuffer>) => {
      if (typeof event.data === "string") this.receive(JSON.parse(event.data));
      else {
        this.send({ type: "shown" });
        this.listener.onFrame(readFrame(event.data));
      }
    };
    socket.onclose = (event) => {
      if (this.closed) return;
      for (const answer of this.questions.values()) answer(null);
      this.questions.clear();
      const final = FINAL[event.code];
      if (final) {
        this.listener.onConnection(final);
        return;
      }
      this.listener.onConnection("lost");
      setTimeout(() => !this.closed && this.connect(), this.wait);
      this.wait = Math.min(this.wait * 2, LONGEST_WAIT_MS);
    };
  }

  private receive(message: ServerMessage & { asked?: string | null }): void {
    if (message.asked) {
      this.questions.get(message.asked)?.(message);
      this.questions.delete(message.asked);
      return;
    }
    if (message.type === "committed" || (message.type === "refused" && message.request !== null)) {
      const request = message.request as string;
      this.unacknowledged.delete(request);
      this.questions.get(request)?.(null);
      this.questions.delete(request);
    }
    this.listener.onMessage(message);
  }

  private send(message: object): boolean {
    if (this.socket?.readyState !== WebSocket.OPEN) return false;
    this.socket.send(JSON.stringify(message));
    return true;
  }

  private nextRequest(): string {
    this.request += 1;
    return `${this.name}-${this.request}`;
  }

  private commit(commit: Omit<Commit, "request">): void {
    const message = { ...commit, request: this.nextRequest() };
    this.unacknowledged.set(message.request, message);
    this.send(message);
  }

  /** Changes that have not reached the database, as far as is known. */
  get unsent(): number {
    return this.unacknowledged.size;
  }

  /** Patches of the edits that are not acknowledged yet, in their order. */
  waiting(): Operation[][] {
    return [...this.unacknowledged.values()].flatMap(({ patch }) => (patch ? [patch] : []));
  }

  /** An edit in hand; an empty patch lets go of it. */
  preview(patch: Operation[]): void {
    this.serial += 1;
    this.send({ type: "preview", patch, serial: this.serial });
  }

  edit(patch: Operation[], label: string, base: number): void {
    this.commit({ type: "edit", patch, label, base });
  }

  undo(): void {
    this.commit({ type: "undo" });
  }

  redo(): void {
    this.commit({ type: "redo" });
  }

  /** What a pane shows; sent again after every reconnect. */
  setPane(state: Omit<PaneMessage, "serial">): void {
    this.serial += 1;
    const message = { ...state, serial: this.serial };
    this.panes.set(state.pane, message);
    this.send({ type: "pane", ...message });
  }

  closePane(pane: number): void {
    this.panes.delete(pane);
    this.send({ type: "close_pane", pane });
  }

  setRunning(running: boolean): void {
    this.send({ type: "run", running });
  }

  /** Ask the render host about a pane; null when the line broke before the answer. */
  ask<Answer>(type: Question, pane: number, question: object = {}): Promise<Answer | null> {
    const request = this.nextRequest();
    return new Promise((resolve) => {
      this.questions.set(request, resolve as (answer: unknown) => void);
      if (!this.send({ type, pane, request, ...question })) {
        this.questions.delete(request);
        resolve(null);
      }
    });
  }

  /** Break the line and take it up again: the server then tells everything anew. */
  reconnect(): void {
    this.socket?.close();
  }

  close(): void {
    this.closed = true;
    this.socket?.close();
  }
}
