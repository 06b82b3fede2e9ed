/** The conditions that the project keeps, each as a picture of this shot: one click takes them. */
import { Pencil, RefreshCw, Trash2 } from "lucide-react";
import { useMemo } from "react";
import { conditions as told } from "../api/fields.gen";
import { useScene, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { isSame, pointer, replace } from "../store/patch";
import { Small } from "./CardList";
import { KeptStrip } from "./KeptStrip";
import { byName } from "./lights";
import { useLitPictures } from "./useLitPictures";

export function ConditionsShelf() {
  const workspace = useWorkspace();
  const conditions = useScene((s) => s.conditions ?? {});
  const standing = useScene(
    (s) =>
      Object.entries(s.conditions ?? {}).find(
        ([, one]) =>
          told.sections.every((name) => isSame(one[name], s[name])) &&
          told.look.every((name) => one[name] === s.look[name]),
      )?.[0] ?? null,
  );
  const entries = byName(conditions);
  const wanted = useMemo(
    // The picture follows what they are: the conditions themselves are part of what names it.
    () => Object.entries(conditions).map(([key, is]) => ({ key, question: { conditions: key }, is })),
    [conditions],
  );
  const pictures = useLitPictures(wanted);
  const rename = (key: string, name: string) => {
    const next = prompt("Name of these conditions", name)?.trim();
    if (next && next !== name)
      workspace.commit([replace(pointer("conditions", key, "name"), next)], `Rename to ${next}`);
  };
  return (
    <KeptStrip
      label="Conditions"
      kind="Conditions"
      entries={entries}
      pictures={pictures}
      chosen={standing}
      onTake={(key) => void workspace.commitBy("take_conditions", SHOT, { conditions: key })}
      keep={{
        word: "Keep these",
        label: "Keep these conditions",
        onClick: () => void workspace.commitBy("keep_conditions", SHOT),
      }}
      actions={(key, { name }) => (
        <>
          <Small
            title="Keep the present light here"
            name={`Keep the present light as ${name}`}
            onClick={() => void workspace.commitBy("keep_conditions", SHOT, { conditions: key })}
          >
            <RefreshCw size={13} />
          </Small>
          <Small title="Rename" name={`Rename ${name}`} onClick={() => rename(key, name)}>
            <Pencil size={13} />
          </Small>
          <Small
            title="Remove"
            name={`Remove ${name}`}
            onClick={() =>
              workspace.commit([{ op: "remove", path: pointer("conditions", key) }], `Remove ${name}`)
            }
          >
            <Trash2 size={13} />
          </Small>
        </>
      )}
    />
  );
}
