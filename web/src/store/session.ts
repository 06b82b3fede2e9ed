/**
 * What goes on between this window and the server: the line, the render host, the proof, swatches and pictures of maps,
 * and what is to be said. Comes in: the server's messages. Used by bar, veil, shelf and notices.
 */
import type { Finding, HostState, Opened, ServerMessage } from "../api/types";
import type { Connection, ViewportSocket } from "../socket/viewport";
import { SHOT } from "./panes";
import type { Slice } from "./slice";

export interface Notice {
  severity: "info" | "warning" | "error";
  text: string;
  /** That has come to be. */
  project?: number;
}

export interface SessionState {
  project: number;
  name: string;
  /** What reading the asset could not keep, and what is odd about it. */
  problems: string[];
  report: Finding[];
  connection: Connection;
  host: HostState;
  opened: Opened | null;
  /** Pictures of the materials, as addresses of images; one may be missing while it is made. */
  swatches: Record<string, string>;
  /** Pictures of the maps, as addresses of images, by `mapKey`. */
  maps: Record<string, string>;
  running: boolean;
  notices: Notice[];
}

export interface SessionActions {
  setRunning: (running: boolean) => void;
  /** See to it that the picture of a map is there, some time. */
  wantMap: (map: MapName) => void;
  notify: (notice: Notice) => void;
  /** Learn anew what is odd about the asset: it is of another file now. */
  takeReport: (brought: Pick<Brought, "problems" | "report">) => void;
  dismiss: (notice: Notice) => void;
}

/** A texture of an asset, or one channel of it. */
export interface MapName {
  /** SHA-256 of the asset. */
  asset: string;
  texture: number;
  channel: number | null;
}

export const mapKey = ({ asset, texture, channel }: MapName) => `${asset} ${texture} ${channel ?? "all"}`;

const MOST_NOTICES = 4;

/** A project as it is opened, besides its document. */
export interface Brought {
  id: number;
  name: string;
  /** What reading its asset could not keep. */
  problems: string[];
  /** What is odd about its asset. */
  report: Finding[];
}

export const openedSession = ({ id, name, problems, report }: Brought): SessionState => ({
  project: id,
  name,
  problems,
  report,
  connection: "connecting",
  host: "starting",
  opened: null,
  swatches: {},
  maps: {},
  running: true,
  notices: [],
});

export interface SessionSlice extends SessionActions {
  receive: (message: ServerMessage) => void;
}

export function sessionSlice(
  { getState: get, setState: set }: Slice<SessionState>,
  socket: ViewportSocket,
): SessionSlice {
  const notify = (notice: Notice) =>
    set((s) =>
      s.notices.some((n) => n.text === notice.text)
        ? s
        : { notices: [...s.notices, notice].slice(-MOST_NOTICES) },
    );

  const asked = new Set<string>();
  const wantMap = async (map: MapName) => {
    const key = mapKey(map);
    if (asked.has(key) || get().opened === null) return;
    asked.add(key);
    const { texture, channel } = map;
    const answer = await socket.ask<{ picture: string | null }>("texture", SHOT, { texture, channel });
    const picture = answer?.picture;
    if (picture) set((s) => ({ maps: { ...s.maps, [key]: picture } }));
    else asked.delete(key); // the line broke, or the host was not there: whoever wants it asks again
  };

  const receive = (message: ServerMessage) => {
    switch (message.type) {
      case "host":
        set({ host: message.state });
        break;
      case "running":
        set({ running: message.running });
        break;
      case "problems":
        // Those of the asset stand in its report.
        for (const text of message.problems)
          if (!get().problems.includes(text)) notify({ severity: "warning", text });
        break;
      case "swatch":
        set((s) => ({ swatches: { ...s.swatches, [message.material]: message.picture } }));
        break;
      case "error":
        notify({ severity: "error", text: message.message });
        break;
      case "opened":
        set({ opened: message });
        break;
    }
  };

  return {
    receive,
    notify,
    wantMap,
    setRunning: (running) => socket.setRunning(running),
    takeReport: ({ problems, report }) => set({ problems, report }),
    dismiss: (notice) => set((s) => ({ notices: s.notices.filter((n) => n !== notice) })),
  };
}
