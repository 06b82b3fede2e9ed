/** The store as a slice of it sees it: its own fields, and those of others that it names. */
export interface Slice<State> {
  getState: () => State;
  setState: (changes: Partial<State> | ((state: State) => Partial<State>)) => void;
}
