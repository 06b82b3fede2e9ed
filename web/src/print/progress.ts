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
    print.place != null && together(`place ${print.place}`),
    runs && together(`${print.samples_done} of ${print.samples} samples`),
    runs && print.noise != null && together(`${noise(print.noise)} noise`),
    print.seconds_left != null && together(`${duration(print.seconds_left)} left`),
  ];
  return words.filter(Boolean).join(" · ") + (print.state === "failed" ? `: ${print.error}` : "");
}

/** Words that no line is broken between. */
const together = (words: string) => words.replaceAll(" ", "\u00a0");

/** Relative error [%], as fine as it says anything. */
const noise = (percent: number) => `${percent.toFixed(percent < 10 ? 1 : 0)} %`;
