// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, beforeAll, beforeEach, describe, expect, it, vi } from "vitest";
import type { SwatchEntry } from "../api/types";
import type { Workspace } from "../store/workspace";
import { Line, material, openTestProject, part, renderIn } from "../testing/workspace";
import { MaterialShelf } from "./MaterialShelf";
import { dressed, familiesOf, found } from "./swatches";

const entry = (key: string, name: string, family: string, words: string, over: string[] = []) =>
  ({
    key,
    name,
    family,
    words,
    number: family === "My own" ? 7 : null,
    has_picture: key === "worn",
    is_favourite: key === "gold",
    materials: Object.fromEntries([key, ...over].map((each) => [each, material(each)])),
  }) as unknown as SwatchEntry;

const ALL = [
  entry("own-7", "Our red", "My own", "brand"),
  entry("gold", "Polished gold", "Metals", "yellow mirror"),
  entry("worn", "Worn yellow", "Worn paints", "machine steel", ["worn-steel"]),
];

beforeAll(() => {
  for (const name of ["offsetWidth", "offsetHeight", "clientWidth"])
    Object.defineProperty(HTMLElement.prototype, name, { configurable: true, value: 600 });
});

describe("the library of materials", () => {
  it("is found by family and by every word", () => {
    expect(familiesOf(ALL)).toEqual(["Favourites", "My own", "Metals", "Worn paints"]);
    expect(familiesOf(ALL.slice(2))).toEqual(["Worn paints"]);
    const names = (family: string, words: string) => found(ALL, family, words).map(({ key }) => key);
    expect(names("", "YELLOW")).toEqual(["gold", "worn"]);
    expect(names("", "yellow  steel")).toEqual(["worn"]);
    expect(names("Metals", "yellow")).toEqual(["gold"]);
    expect(names("Favourites", "")).toEqual(["gold"]);
    expect(names("Metals", "brand")).toEqual([]);
  });

  it("is brought with what lies over it, and a copy that is there is used as it is", () => {
    const scene = { materials: {}, parts: {} } as unknown as Parameters<typeof dressed>[0];
    const paths = (of: typeof scene) => dressed(of, ALL[2]!, ["cap"]).map(({ op, path }) => `${op} ${path}`);
    expect(paths(scene)).toEqual([
      "add /materials/worn-steel",
      "add /materials/worn",
      "replace /parts/cap/material",
    ]);
    const there = { ...scene, materials: ALL[2]!.materials } as typeof scene;
    expect(paths(there)).toEqual(["replace /parts/cap/material"]);
  });
});

describe("the shelf", () => {
  let workspace: Workspace;
  beforeEach(() => {
    workspace = openTestProject({
      materials: { felt: material("Felt") },
      parts: { foot: part("Foot", "felt"), base: part("Base", "felt") },
    });
    const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
    client.setQueryData(["swatches"], ALL);
    renderIn(
      workspace,
      <QueryClientProvider client={client}>
        <MaterialShelf />
      </QueryClientProvider>,
    );
  });
  afterEach(() => {
    cleanup();
    workspace.close();
    vi.unstubAllGlobals();
  });
  const library = () => fireEvent.click(screen.getByRole("button", { name: "Library" }));

  it("shows the project's materials first, and the library when it is asked for", () => {
    expect(screen.getByRole("button", { name: "Material Felt" })).not.toBeNull();
    library();
    expect(screen.queryByRole("button", { name: "Material Felt" })).toBeNull();
    expect(screen.getAllByTestId(/^swatch-/)).toHaveLength(3);
    expect(screen.getByTestId("swatch-worn").style.background).toContain("/swatches/worn/picture");
    expect(screen.getByTestId("swatch-gold").style.background).not.toContain("url");
    fireEvent.change(screen.getByRole("textbox", { name: "Find a material" }), { target: { value: "gold" } });
    expect(screen.getAllByTestId(/^swatch-/)).toHaveLength(1);
    fireEvent.change(screen.getByRole("textbox", { name: "Find a material" }), { target: { value: "xyz" } });
    expect(screen.getByText("No material of the library is called that.")).not.toBeNull();
  });

  it("dresses what is selected as one step, and says so when nothing is", () => {
    library();
    fireEvent.click(screen.getByRole("button", { name: "Material Worn yellow of the library" }));
    expect(workspace.getState().scene.parts.foot!.material).toBe("felt");
    expect(workspace.getState().notices.at(-1)!.text).toContain("Select a part");
    act(() => workspace.select(["foot", "base"]));
    fireEvent.click(screen.getByRole("button", { name: "Dress Foot and Base in Worn yellow" }));
    const { materials, parts } = workspace.getState().scene;
    expect(Object.keys(materials)).toEqual(["felt", "worn-steel", "worn"]);
    expect([parts.foot!.material, parts.base!.material]).toEqual(["worn", "worn"]);
    expect(Line.last.sent.filter(({ type }) => type === "edit")).toHaveLength(1);
  });
});
