/** For tests: an open project over a line whose other end is the test. */
import { act, render } from "@testing-library/react";
import type { ReactNode } from "react";
import { vi } from "vitest";
import type { Scene } from "../api/types";
import { described, groupsOf } from "../controls/fields";
import { WorkspaceProvider } from "../store/context";
import type { Brought } from "../store/session";
import { openWorkspace, type Workspace } from "../store/workspace";

export interface Sent {
  type: string;
  request?: string;
  [key: string]: unknown;
}

/** The line: what the window has sent, and a way to answer. */
export class Line {
  static readonly OPEN = 1;
  static last: Line;
  readyState = 1;
  readonly sent: Sent[] = [];
  onopen?: () => void;
  onmessage?: (event: { data: string }) => void;
  onclose?: (event: { code: number }) => void;

  constructor() {
    Line.last = this;
  }

  send(text: string) {
    this.sent.push(JSON.parse(text));
  }

  close() {}

  receive(message: object) {
    act(() => this.onmessage?.({ data: JSON.stringify(message) }));
  }

  /** Answer the last question of a kind. */
  async answer(type: string, answer: object) {
    const asked = this.sent.filter((message) => message.type === type).at(-1)?.request;
    await act(async () => this.onmessage?.({ data: JSON.stringify({ asked, ...answer }) }));
  }
}

const PLAIN = Object.fromEntries(
  groupsOf("Material").flatMap((group) =>
    group.rows.map((row) => [row.field, described("Material", row.field).default]),
  ),
);

/** A material as the core's defaults make it. */
export const material = (name: string, changes: object = {}) => ({
  name,
  inputs: {},
  layers: [],
  ...PLAIN,
  ...changes,
});

const UNMOVED = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0];
export const part = (name: string, worn: string, changes: object = {}) => ({
  name,
  mesh: 0,
  material: worn,
  visible: true,
  matrix: UNMOVED,
  offset: [0, 0, 0],
  turn_x: 0,
  turn_y: 0,
  turn_z: 0,
  size: 1,
  mirror: "none",
  pivot: [0, 0, 0],
  group: null,
  strewn: null,
  pieces: [],
  keys: [],
  ...changes,
});

/** Open a project with a document of these sections. */
export function openTestProject(scene: object, brought: Partial<Brought> = {}): Workspace {
  vi.stubGlobal("WebSocket", Line);
  localStorage.clear();
  const whole = {
    materials: {},
    parts: {},
    lights: {},
    part_sets: {},
    decals: {},
    part_groups: {},
    camera: {},
    asset: null,
    motion: { moves: {} },
    ...scene,
  };
  const workspace = openWorkspace({
    id: 1,
    name: "Lamp",
    scene: whole as unknown as Scene,
    revision: 1,
    can_undo: false,
    can_redo: false,
    problems: [],
    report: [],
    ...brought,
  });
  Line.last.onopen?.();
  return workspace;
}

export const renderIn = (workspace: Workspace, children: ReactNode) =>
  render(<WorkspaceProvider value={workspace}>{children}</WorkspaceProvider>);
