/** For tests: jsdom lays nothing out, so everything that is asked has a size, and scrolling moves the scroller. */
import { vi } from "vitest";

export function giveRoom(content: { height: number; width: number }) {
  const box = { width: 300, height: 400, top: 0, left: 0, right: 300, bottom: 400, x: 0, y: 0 };
  vi.spyOn(Element.prototype, "getBoundingClientRect").mockReturnValue({ ...box, toJSON: () => box });
  for (const [name, size] of [
    ["offsetHeight", box.height],
    ["offsetWidth", box.width],
    ["clientHeight", box.height],
    ["clientWidth", box.width],
    ["scrollHeight", content.height],
    ["scrollWidth", content.width],
  ] as const)
    Object.defineProperty(HTMLElement.prototype, name, { configurable: true, value: size });
  HTMLElement.prototype.scrollTo = function (this: HTMLElement, to?: ScrollToOptions | number) {
    if (typeof to !== "object") return;
    if (to.top !== undefined) this.scrollTop = to.top;
    if (to.left !== undefined) this.scrollLeft = to.left;
    this.dispatchEvent(new Event("scroll"));
  } as typeof HTMLElement.prototype.scrollTo;
}
