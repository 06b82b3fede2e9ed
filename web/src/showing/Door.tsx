/** The way in: by the token behind the # of the address, and a password where one is asked for. */
import { type FormEvent, useCallback, useEffect, useState } from "react";
import type { SeenShowing } from "../api/types";
import { Showing } from "./Showing";
import { type Closed, server, written } from "./source";

type State = { showing: SeenShowing } | { asks: boolean; problem: string } | null;

export function Door() {
  const [state, setState] = useState<State>(() => {
    const showing = written();
    return showing ? { showing } : null;
  });
  const [password, setPassword] = useState("");

  const enter = useCallback(async (tried: string) => {
    try {
      setState({ showing: await server.enter(location.hash.slice(1), tried) });
    } catch (error) {
      const closed = error as Closed;
      // That a password is asked for is no fault of anybody: only a wrong one is.
      setState({ asks: closed.asks, problem: closed.asks && !tried ? "" : closed.message });
    }
  }, []);
  useEffect(() => {
    if (!written()) void enter("");
  }, [enter]);
  const over = useCallback(
    () =>
      setState({ asks: false, problem: "This showing is over. Ask whoever sent the link for another one." }),
    [],
  );

  if (state === null) return <main className="door">One moment …</main>;
  if ("showing" in state) return <Showing first={state.showing} onOver={over} />;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    void enter(password);
  };
  return (
    <main className="door">
      {state.asks ? (
        <form onSubmit={submit}>
          <h1>You are invited to look</h1>
          <label>
            Password
            <input
              type="password"
              autoComplete="off"
              value={password}
              onChange={(event) => setPassword(event.target.value)}
            />
          </label>
          {state.problem && <p role="alert">{state.problem}</p>}
          <button type="submit" className="strong">
            Open
          </button>
        </form>
      ) : (
        <p role="alert">{state.problem}</p>
      )}
    </main>
  );
}
