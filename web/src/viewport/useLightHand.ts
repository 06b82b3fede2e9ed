/**
 * The hand on light: a shadow, a highlight or an aim that is dragged in the picture. In: where the hand is. Out: patches
 * that the render host makes, shown while it is held and stored when it is let go.
 */
import { useMemo } from "react";
import type { Operation } from "../api/types";
import { useWorkspace } from "../store/context";
import type { Gesture } from "../store/hand";
import type { PaneNumber } from "../store/panes";
import { replace } from "../store/patch";
import { LIGHT_TOOLS, type LightTool } from "../store/view";
import type { Workspace } from "../store/workspace";

export const isLightTool = (what: string): what is LightTool =>
  (LIGHT_TOOLS as readonly string[]).includes(what);

/** What the sun of the sky is called among lights. */
const SUN = "sun";
const VERB = { throw: "Throw", glint: "Glint", aim: "Aim" } as const;

interface Made {
  key: string;
  label: string;
  patch: Operation[];
}

/** Degrees of a drag across the picture. */
const [A_PICTURE, LEVEL] = [180, 4];

/** What the environment was when the hand took hold of it, and where that was. */
interface Turning {
  gesture: Gesture;
  from: { x: number; y: number };
  rotation: number;
  tilt: number;
  azimuth: number;
  isSky: boolean;
}

interface Hold {
  how: "throw" | "glint" | "aim";
  light: string;
  caster: number[] | null;
  gesture: Gesture;
  label: string | undefined;
  /** A question is on its way; where the hand is by now. */
  waiting: boolean;
  next: { x: number; y: number } | null;
  ends: boolean;
}

/** What a gesture is about: the chosen light or card, or the sun where there is a sky. */
function subjectOf(workspace: Workspace): string | null {
  const { light, card, scene } = workspace.getState();
  return light ?? card ?? (scene.sky.enabled ? SUN : (Object.keys(scene.lights)[0] ?? null));
}

export class LightHand {
  private hold: Hold | null = null;
  private turning: Turning | null = null;
  /** The press that is meant; an answer to an earlier one comes too late. */
  private presses = 0;
  private released = false;
  private last: { x: number; y: number } | null = null;

  constructor(
    private readonly workspace: Workspace,
    private readonly number: PaneNumber,
    private readonly say: (text: string) => void,
  ) {}

  /** The hand has come down with a tool. */
  async press(tool: LightTool, x: number, y: number): Promise<void> {
    this.cancel();
    const press = ++this.presses;
    this.released = false;
    this.last = null;
    if (tool === "turn") {
      const { environment, sky } = this.workspace.getState().scene;
      this.turning = {
        gesture: this.workspace.begin(sky.enabled ? "Turn the sun" : "Turn the environment"),
        from: { x, y },
        rotation: environment.rotation ?? 0,
        tilt: environment.tilt ?? 0,
        azimuth: sky.azimuth ?? 0,
        isSky: sky.enabled ?? false,
      };
      return;
    }
    if (tool === "grey") {
      const key = await this.workspace.commitBy("grey_card", this.number, { x, y });
      this.say(key === null ? "There is no light there" : "That is grey now");
      return;
    }
    if (tool === "meter") {
      await this.holdMeter(x, y);
      return;
    }
    if (tool === "card") {
      const key = await this.workspace.commitBy("make_card", this.number, { shape: "rectangle", at: [x, y] });
      if (key === null) this.say("Nothing there reflects a card");
      else {
        this.workspace.chooseLight(null);
        this.workspace.set({ card: key, tool: "glint" });
      }
      return;
    }
    const subject = subjectOf(this.workspace);
    if (tool === "throw") {
      const chosen = this.workspace.getState().light;
      const answer = await this.workspace.askHost<{ shadow: { light: string; caster: number[] } | null }>(
        "grip",
        this.number,
        { x, y, light: chosen },
      );
      const shadow = answer?.shadow;
      if (press !== this.presses) return;
      if (!shadow) {
        this.say(chosen ? "This light throws no shadow there" : "No shadow is there");
        return;
      }
      if (shadow.light !== SUN) this.workspace.chooseLight(shadow.light);
      this.take("throw", shadow.light, shadow.caster);
      const last = this.last as { x: number; y: number } | null;
      if (last) this.drag(last.x, last.y);
    } else if (subject === null) {
      this.say("Choose a light first");
      return;
    } else {
      this.take(tool, subject, null);
      this.drag(x, y);
    }
    if (this.released) this.letGo();
  }

  /** Two points at most are compared: a third begins anew. */
  private async holdMeter(x: number, y: number): Promise<void> {
    const found = await this.workspace.pick(this.number, x, y);
    if (!found) {
      this.say("Nothing is there to measure");
      return;
    }
    const { pane, points } = this.workspace.getState().metered;
    const before = pane === this.number && points.length < 2 ? points : [];
    this.workspace.set({ metered: { pane: this.number, points: [...before, found.position] } });
  }

  private take(how: Hold["how"], light: string, caster: number[] | null): void {
    const gesture = this.workspace.begin(VERB[how]);
    this.hold = { how, light, caster, gesture, label: undefined, waiting: false, next: null, ends: false };
  }

  /** The hand is somewhere else. */
  drag(x: number, y: number): void {
    this.last = { x, y };
    if (this.turning) this.turn(this.turning, x, y);
    if (!this.hold) return;
    this.hold.next = { x, y };
    void this.follow(this.hold);
  }

  /** Across the picture it turns half around; up and down tilts it, once that is meant. */
  private turn({ gesture, from, rotation, tilt, azimuth, isSky }: Turning, x: number, y: number): void {
    const across = Math.round((x - from.x) * A_PICTURE * 10) / 10;
    const up = Math.round((from.y - y) * A_PICTURE * 10) / 10;
    if (isSky) {
      gesture.preview([replace("/sky/azimuth", (azimuth - across + 720) % 360)]);
      return;
    }
    const patch = [replace("/environment/rotation", wrapped(rotation + across))];
    // A level drag is meant level.
    if (Math.abs(up) > LEVEL && Math.abs(up) > Math.abs(across))
      patch.push(replace("/environment/tilt", wrapped(tilt + up)));
    gesture.preview(patch);
  }

  private async follow(held: Hold): Promise<void> {
    if (held.waiting || !held.next) return;
    const { x, y } = held.next;
    held.next = null;
    held.waiting = true;
    const { light, how, caster } = held;
    const answer = await this.workspace.askHost<{ made: Made | null }>("place_light", this.number, {
      x,
      y,
      light,
      how,
      caster,
    });
    held.waiting = false;
    const made = answer?.made;
    if (made) {
      held.gesture.preview(made.patch);
      held.label = made.label;
    } else if (this.workspace.getState().scene.lights[light]?.locked) this.say("This light is locked");
    if (held.next) await this.follow(held);
    else if (held.ends) held.gesture.commit(held.label);
  }

  /** The hand has let go: what is shown last is stored, when its answer has come. */
  letGo(): void {
    this.released = true;
    this.turning?.gesture.commit();
    this.turning = null;
    const held = this.hold;
    if (!held) return;
    this.hold = null;
    if (held.waiting || held.next) held.ends = true;
    else held.gesture.commit(held.label);
  }

  cancel(): void {
    this.hold?.gesture.cancel();
    this.turning?.gesture.cancel();
    this.hold = this.turning = null;
  }
}

/** An angle within half a turn. */
const wrapped = (degrees: number) => Math.round((((degrees + 540) % 360) - 180) * 100) / 100;

/** The hand of one pane. */
export function useLightHand(number: PaneNumber, say: (text: string) => void): LightHand {
  const workspace = useWorkspace();
  return useMemo(() => new LightHand(workspace, number, say), [workspace, number, say]);
}
