/** The shots that the project keeps, each as a picture: one click goes there. */
import { RefreshCw } from "lucide-react";
import { useMemo } from "react";
import { Small } from "../light/CardList";
import { KeptStrip } from "../light/KeptStrip";
import { useScene, useWorkspace } from "../store/context";
import { inOrder } from "../store/order";
import { SHOT } from "../store/panes";
import { isSame } from "../store/patch";
import { useHostPictures } from "../store/useHostPictures";
import { ShotMenu } from "./ShotMenu";
import { goToShot } from "./shots";

/** What of a document does not show in them, or is what they themselves say. */
const UNSEEN: ReadonlySet<string> = new Set([
  "camera",
  "print",
  "proof",
  "part_sets",
  "shots",
  "shot_order",
  "balance",
]);

export function ShotShelf() {
  const workspace = useWorkspace();
  const shots = useScene((s) => s.shots);
  const order = useScene((s) => s.shot_order);
  const standing = useScene(
    (s) => Object.entries(s.shots).find(([, shot]) => isSame(shot.camera, s.camera))?.[0] ?? null,
  );
  const entries = useMemo(() => inOrder(shots, order), [shots, order]);
  const wanted = useMemo(() => entries.map(([key, is]) => ({ key, question: { shot: key }, is })), [entries]);
  const pictures = useHostPictures("shot_picture", wanted, UNSEEN);
  return (
    <KeptStrip
      label="Shots"
      kind="Shot"
      entries={entries}
      pictures={pictures}
      chosen={standing}
      onTake={(key) => void goToShot(workspace, key)}
      keep={{
        word: "Keep a shot",
        label: "Keep a shot of what the camera sees",
        onClick: () => void workspace.commitBy("keep_shot", SHOT),
      }}
      nameOf={({ name, locked }) => (locked ? `${name} (locked)` : name)}
      actions={(key, shot) => (
        <>
          {!shot.locked && (
            <Small
              title="Keep the present camera here"
              name={`Keep the present camera as ${shot.name}`}
              onClick={() => void workspace.commitBy("keep_shot", SHOT, { shot: key })}
            >
              <RefreshCw size={12} />
            </Small>
          )}
          <ShotMenu id={key} shot={shot} />
        </>
      )}
    />
  );
}
