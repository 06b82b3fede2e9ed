/** Whether an effect is on, and whether it is shown alone. */
import IconButton from "@mui/material/IconButton";
import Switch from "@mui/material/Switch";
import Tooltip from "@mui/material/Tooltip";
import { Focus } from "lucide-react";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { pointer, replace } from "../store/patch";

export function EffectSwitch({ name, label, model }: { name: string; label: string; model: string }) {
  const workspace = useWorkspace();
  const isOn = useScene((s) => (s.look as unknown as Record<string, { enabled: boolean }>)[name]!.enabled);
  const isAlone = useSlice((s) => s.panes[SHOT]?.solo === name);
  const turn = () => {
    workspace.commit([replace(pointer("look", name, "enabled"), !isOn)], `${label} ${isOn ? "off" : "on"}`);
    if (isOn && isAlone) workspace.setPane(SHOT, { solo: null });
    if (!isOn) workspace.unfold(`${model}.${name}`, true);
  };
  return (
    <>
      {isOn && (
        <Tooltip title={isAlone ? "Show all effects again" : "Show this effect alone"}>
          <IconButton
            size="small"
            aria-label={`${label} alone`}
            aria-pressed={isAlone}
            color={isAlone ? "primary" : "default"}
            onClick={() => workspace.setPane(SHOT, { solo: isAlone ? null : name })}
          >
            <Focus size={13} />
          </IconButton>
        </Tooltip>
      )}
      <Switch
        size="small"
        checked={isOn}
        onChange={turn}
        slotProps={{ input: { "aria-label": `${label} on` } }}
      />
    </>
  );
}
