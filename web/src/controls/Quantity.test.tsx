// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { afterEach, beforeAll, beforeEach, describe, expect, it } from "vitest";
import { fields } from "../api/fields.gen";
import type { Gesture } from "../store/hand";
import { OptionalQuantity } from "./OptionalQuantity";
import { Quantity, type QuantityField } from "./Quantity";

const focus: QuantityField = fields.Camera.focus_distance;
const exposure: QuantityField = fields.Look.exposure;

/** What was stored, one entry for each step of undo. */
let stored: (number | null)[] = [];

function Held({ field, first }: { field: QuantityField; first: number | undefined }) {
  const [committed, setCommitted] = useState(first);
  const [shown, setShown] = useState(first);
  const begin = (): Gesture<number> => {
    let over = false;
    let last: number | undefined;
    const end = (store: boolean) => {
      if (over) return;
      over = true;
      if (store && last !== undefined) {
        stored.push(last);
        setCommitted(last);
      } else setShown(committed);
    };
    return {
      preview: (value) => {
        last = value;
        setShown(value);
      },
      commit: () => end(true),
      cancel: () => end(false),
      isOver: () => over,
    };
  };
  return <Quantity field={field} value={shown} begin={begin} />;
}

const number = () => screen.getByRole<HTMLInputElement>("spinbutton");
const drag = (pixels: number, how: object = {}) => {
  const track = screen.getByTestId(/^track/);
  fireEvent.pointerDown(track, { button: 0, clientX: 100, pointerId: 1, ...how });
  for (let i = 1; i <= Math.abs(pixels); i++)
    fireEvent.pointerMove(track, { clientX: 100 + Math.sign(pixels) * i, pointerId: 1, ...how });
  return track;
};

beforeAll(() => {
  Element.prototype.setPointerCapture = () => {};
});
beforeEach(() => {
  stored = [];
});
afterEach(cleanup);

describe("a number", () => {
  it("Escape takes back what was typed and stores nothing, then and later", async () => {
    const user = userEvent.setup();
    render(<Held field={focus} first={1} />);
    await user.click(number());
    await user.keyboard("42{Escape}");
    expect(number().value).toBe("1");
    await user.tab();
    expect(stored).toEqual([]);
  });

  it("reads a unit, and shows the value in the one that fits", async () => {
    const user = userEvent.setup();
    render(<Held field={focus} first={1} />);
    await user.click(number());
    await user.keyboard("50cm{Enter}");
    expect(stored).toEqual([0.5]);
    expect(document.activeElement).toBe(document.body);
    await user.click(number());
    await user.keyboard("2.5 mm{Enter}");
    expect(stored).toEqual([0.5, 0.0025]);
    expect([number().value, screen.getByText("mm").textContent]).toEqual(["2.5", "mm"]);
    expect(number().getAttribute("aria-valuetext")).toBe("2.5 mm");
  });

  it("keeps what it cannot understand, marks it, and says why", async () => {
    const user = userEvent.setup();
    render(<Held field={focus} first={1} />);
    await user.click(number());
    await user.keyboard("50 kg");
    await user.tab();
    expect(number().value).toBe("50 kg");
    expect(number().getAttribute("aria-invalid")).toBe("true");
    expect(screen.getByRole("alert").textContent).toContain("“kg” is no unit here");
    await user.click(number());
    await user.keyboard("{Escape}");
    expect(screen.queryByRole("alert")).toBeNull();
    expect([number().value, stored]).toEqual(["1", []]);
  });

  it("says what is too much instead of taking something else", async () => {
    const user = userEvent.setup();
    render(<Held field={exposure} first={0} />);
    await user.click(number());
    await user.keyboard("99{Enter}");
    expect(screen.getByRole("alert").textContent).toBe("At most 30 EV");
    expect(stored).toEqual([]);
  });

  it("does not run away under the hand, and one drag is one step of undo", () => {
    render(<Held field={focus} first={90.5} />);
    const track = drag(-10);
    expect(Number(number().value)).toBeGreaterThan(80);
    expect(screen.getByText("was 90.5")).toBeTruthy();
    fireEvent.pointerUp(track);
    expect(stored).toEqual([81.9]);
    expect(screen.queryByText("was 90.5")).toBeNull();
  });

  it("is the same range however far it was dragged before it was let go", () => {
    render(<Held field={exposure} first={0} />);
    const track = drag(50);
    fireEvent.pointerMove(track, { clientX: 250, pointerId: 1 });
    for (let x = 250; x >= 100; x -= 10) fireEvent.pointerMove(track, { clientX: x, pointerId: 1 });
    fireEvent.pointerUp(track);
    expect(stored).toEqual([0]);
  });

  it("lets go of a drag that the system takes away", () => {
    render(<Held field={exposure} first={0} />);
    fireEvent.pointerCancel(drag(20));
    expect([stored, number().value]).toEqual([[], "0"]);
  });

  it("is typed into after a click that did not move", () => {
    render(<Held field={exposure} first={0} />);
    fireEvent.pointerUp(drag(2));
    expect(document.activeElement).toBe(number());
    expect(stored).toEqual([]);
  });

  it("steps by arrow keys as one step of undo until it is left", async () => {
    const user = userEvent.setup();
    render(<Held field={exposure} first={0} />);
    await user.tab();
    await user.keyboard("{ArrowUp}{ArrowUp}{Shift>}{ArrowUp}{/Shift}{Alt>}{ArrowDown}{/Alt}");
    expect([number().value, stored]).toEqual(["1.19", []]);
    await user.tab();
    expect(stored).toEqual([1.19]);
  });

  it("takes steps back with Escape", async () => {
    const user = userEvent.setup();
    render(<Held field={exposure} first={0.5} />);
    await user.tab();
    await user.keyboard("{ArrowUp}{ArrowUp}{Escape}");
    await user.tab();
    expect([number().value, stored]).toEqual(["0.5", []]);
  });

  it("leaves Escape to what is around it when there is nothing to take back", async () => {
    const user = userEvent.setup();
    const heard: string[] = [];
    render(
      <div role="none" onKeyDown={(event) => heard.push(event.key)}>
        <Held field={exposure} first={0} />
      </div>,
    );
    await user.click(number());
    await user.keyboard("5{Escape}");
    expect(heard).toEqual(["5"]);
    await user.click(number());
    await user.keyboard("{Escape}");
    expect(heard).toEqual(["5", "Escape"]);
  });

  it("loses nothing when it goes away with something in hand", async () => {
    const user = userEvent.setup();
    const { unmount } = render(<Held field={exposure} first={0} />);
    await user.tab();
    await user.keyboard("{ArrowUp}");
    unmount();
    expect(stored).toEqual([0.1]);
  });

  it("comes back to its default by a double-click on its label", () => {
    render(<Held field={exposure} first={2} />);
    fireEvent.doubleClick(screen.getByText("Exposure"));
    expect(stored).toEqual([0]);
  });

  it("says mixed where several have different values, and gives all the same", async () => {
    const user = userEvent.setup();
    render(<Held field={exposure} first={undefined} />);
    expect(number().placeholder).toBe("mixed");
    expect(number().getAttribute("aria-valuetext")).toBe("mixed");
    await user.click(number());
    await user.tab();
    expect(stored).toEqual([]);
    await user.click(number());
    await user.keyboard("1.5{Enter}");
    expect(stored).toEqual([1.5]);
  });
});

describe("a number that can be off", () => {
  const aperture = { ...focus, label: "Aperture", unit: "f/", on: 2.8, off: "all sharp" };

  it("says what off means, and comes back as it was", async () => {
    const user = userEvent.setup();
    function Lens() {
      const [value, setValue] = useState<number | null>(null);
      const begin = (): Gesture<number | null> => ({
        preview: (next) => {
          stored.push(next);
          setValue(next);
        },
        commit: () => {},
        cancel: () => {},
        isOver: () => false,
      });
      return <OptionalQuantity field={aperture} value={value} begin={begin} />;
    }
    render(<Lens />);
    expect(screen.getByText("all sharp")).toBeTruthy();
    const toggle = () => user.click(screen.getByRole("switch", { name: "Aperture" }));
    await toggle();
    await user.click(number());
    await user.keyboard("f/4{Enter}");
    await toggle();
    await toggle();
    expect(stored).toEqual([2.8, 4, null, 4]);
  });
});
