// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeAll, describe, expect, it, vi } from "vitest";
import { giveRoom } from "../testing/layout";
import { Rows } from "./Rows";
import { Strip } from "./Strip";

const ROW = 40;
const PITCH = 100;
const COUNT = 5000;

beforeAll(() => giveRoom({ height: COUNT * ROW, width: COUNT * PITCH }));
afterEach(cleanup);

const list = (chosen: number[] = []) =>
  render(
    <>
      <Rows
        label="Parts"
        count={COUNT}
        height={ROW}
        keyOf={(index) => `part-${index}`}
        isSelected={(index) => chosen.includes(index)}
        maxHeight="400px"
        render={(index, { item }) => (
          <>
            <button type="button" {...item}>
              Part {index}
            </button>
            <button type="button" tabIndex={-1}>
              Hide {index}
            </button>
          </>
        )}
      />
      <button type="button">After</button>
    </>,
  );

describe("a list", () => {
  it("of 5,000 rows draws those in sight and says how many there are", () => {
    list([3]);
    const rows = screen.getAllByRole("row");
    expect(rows.length).toBeLessThan(30);
    expect(screen.getByRole("grid").getAttribute("aria-rowcount")).toBe(`${COUNT}`);
    expect(rows[3]!.getAttribute("aria-selected")).toBe("true");
    expect(rows[2]!.getAttribute("aria-selected")).toBe("false");
  });

  it("is one stop of the Tab key", async () => {
    list();
    const user = userEvent.setup();
    await user.tab();
    expect(document.activeElement?.textContent).toBe("Part 0");
    await user.tab();
    expect(document.activeElement?.textContent).toBe("After");
  });

  it("is walked with arrow keys, to its end and into a row", async () => {
    list();
    const user = userEvent.setup();
    await user.tab();
    await user.keyboard("{ArrowDown}{ArrowDown}");
    expect(document.activeElement?.textContent).toBe("Part 2");
    await user.keyboard("{ArrowRight}");
    expect(document.activeElement?.textContent).toBe("Hide 2");
    await user.keyboard("{ArrowLeft}{End}");
    await vi.waitFor(() => expect(document.activeElement?.textContent).toBe(`Part ${COUNT - 1}`));
    await user.keyboard("{ArrowDown}{PageUp}");
    await vi.waitFor(() => expect(document.activeElement?.textContent).toBe(`Part ${COUNT - 11}`));
  });
});

describe("a shelf", () => {
  it("draws what is in sight and is walked sideways", async () => {
    render(
      <Strip
        label="Materials"
        count={COUNT}
        pitch={PITCH}
        keyOf={(index) => `m-${index}`}
        render={(index, item) => (
          <button type="button" {...item}>
            Material {index}
          </button>
        )}
      />,
    );
    expect(screen.getAllByRole("listitem").length).toBeLessThan(20);
    const user = userEvent.setup();
    await user.tab();
    await user.keyboard("{ArrowRight}{ArrowDown}");
    expect(document.activeElement?.textContent).toBe("Material 1");
    await user.keyboard("{End}");
    await vi.waitFor(() => expect(document.activeElement?.textContent).toBe(`Material ${COUNT - 1}`));
  });
});
