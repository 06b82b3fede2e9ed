/** What places with a track are like at the moment that is shown, for their controls: asked of the host. */
import { useEffect } from "react";
import { useScene, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { tracksOf } from "./recorded";

export function useMoved() {
  const workspace = useWorkspace();
  const time = useScene((s) => s.shutter.time);
  const moves = useScene((s) => s.motion.moves);
  useEffect(() => {
    if (tracksOf(moves).size === 0) {
      workspace.takeMoved({});
      return;
    }
    let gone = false;
    void workspace.askHost<{ values: Record<string, unknown> }>("keyed_values", SHOT, {}).then((answer) => {
      // What is answered late is of another moment.
      const isNow = workspace.getState().scene.shutter.time === time;
      if (!gone && answer && isNow) workspace.takeMoved(answer.values);
    });
    return () => {
      gone = true;
    };
  }, [workspace, time, moves]);
}
