// @vitest-environment jsdom
import { beforeEach, describe, expect, it } from "vitest";
import { ownsKey } from "./Shortcuts";

const pressed = (selector: string, key: string) => {
  const target = selector === "body" ? document.body : document.querySelector(selector)!;
  const event = new KeyboardEvent("keydown", { key, bubbles: true });
  target.dispatchEvent(event);
  return ownsKey(event);
};

describe("whose a key is", () => {
  beforeEach(() => {
    document.body.innerHTML = `
      <main><canvas tabindex="0"></canvas></main>
      <aside tabindex="0"><input><input type="checkbox"><div role="combobox" tabindex="0"></div><button><i></i></button></aside>
      <ul role="listbox"><li tabindex="0"></li></ul>`;
  });

  it.each(["PageDown", "ArrowLeft", "Home"])("%s is the camera's only over the picture", (key) => {
    expect([pressed("body", key), pressed("canvas", key)]).toEqual([false, false]);
    expect([pressed("aside", key), pressed("input", key), pressed("[role=combobox]", key)]).toEqual([
      true,
      true,
      true,
    ]);
  });

  it("Space presses what has the focus, and otherwise holds the proof", () => {
    for (const each of ["button", "i", "input", "[role=combobox]", "li"])
      expect(pressed(each, " ")).toBe(true);
    expect(pressed("body", " ")).toBe(false);
  });

  it("a switch leaves undo to the project, what is typed into does not", () => {
    expect([pressed("input", "z"), pressed("[type=checkbox]", "z")]).toEqual([true, false]);
  });

  it("every key is that of a handle in hand", () => {
    document.body.dataset.typing = "handle";
    expect(pressed("body", "5")).toBe(true);
    delete document.body.dataset.typing;
  });
});
