/** Binds the keys of every action while a project is open; keys typed into a field stay there. */
import { useHotkeys } from "react-hotkeys-hook";
import { useWorkspace } from "../store/context";
import { type Action, actions } from "./registry";

export function Shortcuts() {
  return actions.filter((one) => one.keys).map((one) => <Shortcut key={one.id} action={one} />);
}

/** Sliders, lists, buttons and handles in hand use these keys themselves. */
const ownsKey = (event: KeyboardEvent) => {
  const target = event.target as HTMLElement;
  if (document.body.dataset.typing) return true;
  if (target.closest('[role="dialog"], [role="presentation"], [role="menu"]')) return true;
  if (event.key === " ") return target.matches("button, [role=button], a, input");
  return /^(Arrow|Page|Home)/.test(event.key) && target.matches("input");
};

function Shortcut({ action }: { action: Action }) {
  const workspace = useWorkspace();
  useHotkeys(action.keys, () => action.run(workspace), {
    preventDefault: true,
    ignoreEventWhen: ownsKey,
  });
  return null;
}
