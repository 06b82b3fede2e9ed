/** The one state of connection and data that is shown: in words, and whether it needs attention. */
import type { Connection } from "../socket/viewport";

export interface Standing {
  state: "opening" | "saved" | "saving" | "offline" | "reconnecting" | "lost";
  text: string;
}

const edits = (count: number) => (count === 1 ? "1 edit waits" : `${count} edits wait`);

/** From the state of the line, how many changes are on their way, and whether the machine has a network at all. */
export function standingOf(
  connection: Connection,
  unsent: number,
  wasOpen: boolean,
  hasNetwork: boolean,
): Standing {
  const waits = unsent > 0 ? `, ${edits(unsent)}` : "";
  switch (connection) {
    case "open":
      return unsent === 0 ? { state: "saved", text: "Saved" } : { state: "saving", text: "Saving" };
    case "signed-out":
    case "unknown-project":
      return { state: "lost", text: `Lost${waits}` };
    default:
      if (!wasOpen && connection === "connecting") return { state: "opening", text: "Opening" };
      return hasNetwork
        ? { state: "reconnecting", text: `Reconnecting${waits}` }
        : { state: "offline", text: `Offline${waits}` };
  }
}
