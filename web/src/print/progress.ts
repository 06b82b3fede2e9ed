/** How far a print is, in words. */
import type { PrintEntry } from "../api/types";
import { duration } from "../shell/words";

const STATES: Record<string, string> = {
  queued: "In the queue",
  running: "Printing",
  done: "Done",
  failed: "Failed",
  canceled: "Cancelled",
  held: "Held",
};

export function progressOf(print: PrintEntry): string {
  const runs = print.state === "running";
  const words = [
    STATES[print.state],
    runs && `${print.samples_done} of ${print.samples} samples`,
    runs && print.noise != null && `${noise(print.noise)} noise`,
    print.seconds_left != null && `${duration(print.seconds_left)} left`,
  ];
  return words.filter(Boolean).join(" · ") + (print.state === "failed" ? `: ${print.error}` : "");
}

/** Relative error [%], as fine as it says anything. */
const noise = (percent: number) => `${percent.toFixed(percent < 10 ? 1 : 0)} %`;
