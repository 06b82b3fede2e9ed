/** Binds the keys of every action while a project is open; keys typed into a field stay there. */
import { useCallback, useEffect, useRef } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { useWorkspace } from "../store/context";
import { type Action, actions } from "./registry";

export function Shortcuts() {
  return actions
    .filter((one) => one.keys)
    .map((one) => (one.held ? <Held key={one.id} action={one} /> : <Shortcut key={one.id} action={one} />));
}

/** Inputs that nothing is typed into: a switch does not keep undo to itself. */
const PRESSED = ["checkbox", "radio", "range", "button", "submit", "file", "color"];

const takesText = (target: HTMLElement) =>
  target instanceof HTMLInputElement
    ? !PRESSED.includes(target.type)
    : target.closest("textarea, select, [contenteditable=true]") !== null;

/** Whether whatever has the focus, or is in hand, uses a key itself. */
export const ownsKey = (event: KeyboardEvent) => {
  const target = event.target as HTMLElement;
  if (document.body.dataset.typing || takesText(target)) return true;
  if (target.closest('[role="dialog"], [role="presentation"], [role="menu"], [role="listbox"]')) return true;
  if (event.key === " ") return target.closest(PRESSED_BY_SPACE) !== null;
  // The keys of the camera are the picture's: elsewhere they scroll, step and choose.
  return CAMERA_KEY.test(event.key) && target !== document.body && !target.closest("main");
};

const PRESSED_BY_SPACE =
  "button, a, input, select, summary, [role=button], [role=combobox], [role=option], [role=switch]";
const CAMERA_KEY = /^(Arrow|Page|Home|End)/;

/** One that lasts as long as its key is down, or until the window is left. */
function Held({ action }: { action: Action }) {
  const workspace = useWorkspace();
  const end = useRef<(() => void) | null>(null);
  const release = useCallback(() => {
    end.current?.();
    end.current = null;
  }, []);
  const options = { preventDefault: true, enableOnFormTags: true, ignoreEventWhen: ownsKey };
  useHotkeys(
    action.keys,
    () => {
      end.current ??= action.held!(workspace);
    },
    options,
  );
  useHotkeys(action.keys, release, { ...options, keyup: true, keydown: false });
  useEffect(() => {
    window.addEventListener("blur", release);
    return () => window.removeEventListener("blur", release);
  }, [release]);
  return null;
}

function Shortcut({ action }: { action: Action }) {
  const workspace = useWorkspace();
  useHotkeys(action.keys, () => action.run(workspace), {
    preventDefault: true,
    enableOnFormTags: true,
    ignoreEventWhen: ownsKey,
  });
  return null;
}
