/** Look: before and after, exposure and white, the effects in the order in which they are applied, the display. */
import Typography from "@mui/material/Typography";
import type { ReactNode } from "react";
import { effects } from "../api/fields.gen";
import { ExposureTools } from "../camera/ExposureTools";
import { FieldGroups } from "../controls/FieldGroup";
import type { ModelName, Place } from "../controls/fields";
import { useFinding } from "../controls/finding";
import { ImageField } from "../light/ImageField";
import { useScene, useWorkspace } from "../store/context";
import { replace } from "../store/patch";
import { HueCurves, ToneCurves } from "./Curves";
import { EffectSwitch } from "./EffectSwitch";
import { OwnTransform, TableField } from "./LookFile";
import { LookTools } from "./LookTools";
import { Places } from "./Places";
import { Scopes } from "./Scopes";
import { Wheels } from "./Wheels";

const LOOK: Place[] = [["look"]];
const AT: Record<string, Place[]> = Object.fromEntries(effects.map(({ name }) => [name, [["look", name]]]));
const STAGES = { lens: "Lens", grade: "Grade", finish: "Finish" } as const;
/** The switch of an effect stands behind its heading. */
const IN_HEADING = { enabled: <span hidden /> };
const NONE: string[] = [];
const EXPOSURE = { exposure: <ExposureTools /> };
/** What an effect has besides numbers, while it is on. */
const MORE: Record<string, ReactNode> = {
  curve: <ToneCurves />,
  decision: <Wheels />,
  hues: <HueCurves />,
  glare: <ApertureImage />,
  table: <TableField />,
};

export function LookStop() {
  const finding = useFinding();
  const plain = finding.query === "" && !finding.changedOnly;
  return (
    <>
      <LookTools />
      <FieldGroups model="Look" places={LOOK} open={["exposure"]} only={["exposure"]} more={EXPOSURE} />
      {(Object.keys(STAGES) as (keyof typeof STAGES)[]).map((stage) => (
        <section key={stage} aria-label={STAGES[stage]}>
          {plain && <Heading>{STAGES[stage]}</Heading>}
          {effects
            .filter((effect) => effect.stage === stage)
            .map(({ name, label, model }) => (
              <Effect key={name} name={name} label={label} model={model as ModelName} />
            ))}
          {stage === "grade" && plain && <Places />}
        </section>
      ))}
      {plain && <Heading>Display</Heading>}
      <FieldGroups
        model="Look"
        places={LOOK}
        open={NONE}
        only={["display"]}
        more={{ display: <OwnTransform /> }}
      />
      {plain && <Scopes />}
    </>
  );
}

function Heading({ children }: { children: string }) {
  return (
    <Typography
      variant="overline"
      color="textSecondary"
      sx={{ display: "block", mt: 1.25, lineHeight: 2, letterSpacing: "0.06em" }}
    >
      {children}
    </Typography>
  );
}

function Effect({ name, label, model }: { name: string; label: string; model: ModelName }) {
  const isOn = useScene((s) => (s.look as unknown as Record<string, { enabled: boolean }>)[name]!.enabled);
  return (
    <FieldGroups
      model={model}
      places={AT[name]!}
      open={NONE}
      instead={IN_HEADING}
      aside={<EffectSwitch name={name} label={label} model={model} />}
      more={isOn ? { [name]: MORE[name] } : {}}
    />
  );
}

function ApertureImage() {
  const workspace = useWorkspace();
  const file = useScene((s) => s.look.glare.image ?? null);
  return (
    <ImageField
      label="Image of an aperture"
      none="By blades"
      file={file}
      onFile={(next, name) => workspace.commit([replace("/look/glare/image", next)], `Aperture: ${name}`)}
    />
  );
}
