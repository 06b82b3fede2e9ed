/** What can be done with a group of variants, and with one of them. */
import Divider from "@mui/material/Divider";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { MoreHorizontal } from "lucide-react";
import { useState } from "react";
import type { Scene, VariantGroup } from "../api/types";
import { Small } from "../light/CardList";
import { useScene, useWorkspace } from "../store/context";
import { movedInOrder } from "../store/order";
import { pointer, replace } from "../store/patch";
import { variantsOf } from "./variants";

interface MoreProps {
  name: string;
  /** Given what closes the menu and then does something. */
  children: (closing: (act: () => void) => () => void) => React.ReactNode;
}

function More({ name, children }: MoreProps) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Small title="More" name={`More about ${name}`} onClick={(event) => setAnchor(event.currentTarget)}>
        <MoreHorizontal size={13} />
      </Small>
      {anchor && (
        <Menu anchorEl={anchor} open onClose={() => setAnchor(null)} slotProps={{ list: { dense: true } }}>
          {children((act) => () => {
            setAnchor(null);
            act();
          })}
        </Menu>
      )}
    </>
  );
}

export function GroupMenu({ id, group }: { id: string; group: VariantGroup }) {
  const workspace = useWorkspace();
  const rename = () => {
    const next = prompt("Name of these variants", group.name)?.trim();
    if (next && next !== group.name)
      workspace.commit([replace(pointer("variant_groups", id, "name"), next)], `Rename ${group.name}`);
  };
  return (
    <More name={group.name}>
      {(closing) => [
        <MenuItem key="rename" onClick={closing(rename)}>
          Rename
        </MenuItem>,
        <MenuItem
          key="remove"
          onClick={closing(() =>
            workspace.commit(
              [{ op: "remove", path: pointer("variant_groups", id) }],
              `Remove the variants ${group.name}`,
            ),
          )}
        >
          Remove, what is on stays
        </MenuItem>,
      ]}
    </More>
  );
}

const sameRule = (rule: Record<string, string>, one: Record<string, string>) =>
  Object.keys(rule).length === Object.keys(one).length &&
  Object.entries(one).every(([key, value]) => rule[key] === value);

/** Variants of other groups, each with the rule that keeps it from going with this one, if there is one. */
function others(scene: Scene, group: string, id: string) {
  return Object.entries(scene.variant_groups)
    .filter(([key]) => key !== group)
    .flatMap(([key, one]) =>
      variantsOf(one).map(([variant, { name }]) => {
        const together = { [group]: id, [key]: variant };
        const rule = scene.exclusions.findIndex((each) => sameRule(each.together, together));
        return { key: `${key} ${variant}`, name: `${one.name}: ${name}`, together, rule };
      }),
    );
}

export function VariantMenu({ group, id }: { group: string; id: string }) {
  const workspace = useWorkspace();
  const scene = useScene((s) => s);
  const of = scene.variant_groups[group];
  const variant = of?.variants[id];
  if (!of || !variant) return null;
  const order = variantsOf(of).map(([key]) => key);
  const place = order.indexOf(id);
  const at = (...path: string[]) => pointer("variant_groups", group, ...path);
  const rename = () => {
    const next = prompt("Name of this variant", variant.name)?.trim();
    if (next && next !== variant.name)
      workspace.commit([replace(at("variants", id, "name"), next)], `Rename ${variant.name}`);
  };
  const move = (by: number) =>
    workspace.commit([replace(at("order"), movedInOrder(order, place, by))], `Order of ${variant.name}`);
  const remove = () =>
    workspace.commit(
      [
        { op: "remove", path: at("variants", id) },
        replace(
          at("order"),
          order.filter((key) => key !== id),
        ),
        ...(of.chosen === id ? [replace(at("chosen"), null)] : []),
        ...(of.default === id ? [replace(at("default"), null)] : []),
      ],
      `Remove ${variant.name}`,
    );
  const forbid = ({ together, rule }: ReturnType<typeof others>[number]) =>
    workspace.commit(
      rule >= 0
        ? [{ op: "remove", path: pointer("exclusions", String(rule)) }]
        : [{ op: "add", path: "/exclusions/-", value: { together } }],
      "What goes together",
    );
  const rules = others(scene, group, id);
  return (
    <More name={variant.name}>
      {(closing) => [
        <MenuItem key="rename" onClick={closing(rename)}>
          Rename
        </MenuItem>,
        <MenuItem key="up" disabled={place <= 0} onClick={closing(() => move(-1))}>
          Earlier
        </MenuItem>,
        <MenuItem key="down" disabled={place >= order.length - 1} onClick={closing(() => move(1))}>
          Later
        </MenuItem>,
        <MenuItem
          key="default"
          role="menuitemcheckbox"
          aria-checked={of.default === id}
          selected={of.default === id}
          onClick={closing(() =>
            workspace.commit(
              [replace(at("default"), of.default === id ? null : id)],
              `Default of ${of.name}`,
            ),
          )}
        >
          The default of its group
        </MenuItem>,
        <MenuItem key="remove" disabled={order.length < 2} onClick={closing(remove)}>
          Remove
        </MenuItem>,
        ...(rules.length > 0
          ? [
              <Divider key="rules" textAlign="left" sx={{ fontSize: 11.5 }}>
                Does not go with
              </Divider>,
            ]
          : []),
        ...rules.map((one) => (
          <MenuItem
            key={one.key}
            role="menuitemcheckbox"
            aria-checked={one.rule >= 0}
            selected={one.rule >= 0}
            onClick={closing(() => forbid(one))}
          >
            {one.name}
          </MenuItem>
        )),
      ]}
    </More>
  );
}
