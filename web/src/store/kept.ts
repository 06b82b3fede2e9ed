/** What this browser remembers of how a person likes the window; none of it matters when it is lost. */
const PREFIX = "velvet-lantern ";

/** What was kept under a name, or `otherwise`. */
export function kept<T>(name: string, otherwise: T): T {
  try {
    return (JSON.parse(localStorage.getItem(PREFIX + name) ?? "null") as T | null) ?? otherwise;
  } catch {
    return otherwise; // no storage, or something else wrote there
  }
}

export function keep(name: string, value: unknown): void {
  try {
    localStorage.setItem(PREFIX + name, JSON.stringify(value));
  } catch {
    // no storage, or no room
  }
}
