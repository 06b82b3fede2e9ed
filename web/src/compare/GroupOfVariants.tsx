/** One group: its variants, one click each; keeping another; what to do with what was changed under one. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import ButtonBase from "@mui/material/ButtonBase";
import Typography from "@mui/material/Typography";
import { api } from "../api/client";
import type { Operation, VariantGroup } from "../api/types";
import { useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { GroupMenu, VariantMenu } from "./menus";
import type { Standing } from "./standing";
import { keyOfVariant, variantsOf } from "./variants";

const NONE: readonly string[] = [];

interface Props {
  id: string;
  group: VariantGroup;
  standing: Standing;
  /** Whether its variants are taken by the keys 1 to 9. */
  hasKeys: boolean;
}

export function GroupOfVariants({ id, group, standing, hasKeys }: Props) {
  const workspace = useWorkspace();
  const saved = useSlice((s) => s.saved);
  const isChanged = standing.changed.includes(id);
  const keep = async () => {
    try {
      const made = await api.keepVariant(workspace.getState().project, id);
      workspace.commit(made.patch as unknown as Operation[], made.label);
    } catch (error) {
      workspace.notify({ severity: "info", text: (error as Error).message });
    }
  };
  const rewrite = (everywhere: boolean) =>
    void workspace.commitBy("rewrite_variant", SHOT, { group: id, everywhere });
  const chosen = group.chosen ? group.variants[group.chosen] : undefined;
  return (
    <Box
      component="section"
      aria-label={group.name}
      sx={{ py: 1, borderTop: "1px solid", borderColor: "divider" }}
    >
      <Box sx={{ display: "flex", alignItems: "center", mb: 0.5 }}>
        <Typography variant="subtitle2" noWrap sx={{ flex: 1 }}>
          {group.name}
        </Typography>
        <GroupMenu id={id} group={group} />
      </Box>
      <Box role="radiogroup" aria-label={`Variants of ${group.name}`}>
        {variantsOf(group).map(([key, variant], place) => (
          <Row
            key={key}
            name={variant.name}
            hot={hasKeys ? keyOfVariant(place) : ""}
            isOn={group.chosen === key}
            isDefault={group.default === key}
            isAgainst={standing.against.some(([g, v]) => g === id && v === key)}
            words={standing.words[id]?.[key] ?? NONE}
            onTake={() => void workspace.commitBy("take_variant", SHOT, { group: id, variant: key })}
          >
            <VariantMenu group={id} id={key} />
          </Row>
        ))}
      </Box>
      {isChanged && chosen && (
        <Box sx={{ mt: 0.5 }} data-testid="changed-under">
          <Typography variant="caption" color="textSecondary" component="p">
            Something that these variants say was changed. Keep it
          </Typography>
          <Box sx={{ display: "flex", gap: 0.5 }}>
            <Button size="small" variant="outlined" onClick={() => rewrite(false)} sx={{ flex: 1 }}>
              In {chosen.name}
            </Button>
            <Button size="small" variant="outlined" onClick={() => rewrite(true)} sx={{ flex: 1 }}>
              In all
            </Button>
          </Box>
        </Box>
      )}
      <Button size="small" disabled={!saved} onClick={() => void keep()} sx={{ mt: 0.5 }}>
        Keep as a variant
      </Button>
    </Box>
  );
}

interface RowProps {
  name: string;
  hot: string;
  isOn: boolean;
  isAgainst: boolean;
  isDefault: boolean;
  /** What it changes. */
  words: readonly string[];
  onTake: () => void;
  children: React.ReactNode;
}

function Row({ name, hot, isOn, isAgainst, isDefault, words, onTake, children }: RowProps) {
  return (
    <>
      <Box
        sx={{
          display: "flex",
          alignItems: "center",
          "& .on-it": { opacity: 0 },
          "&:hover .on-it, &:focus-within .on-it": { opacity: 1 },
        }}
      >
        <ButtonBase
          role="radio"
          aria-checked={isOn}
          onClick={onTake}
          sx={{
            flex: 1,
            minWidth: 0,
            justifyContent: "flex-start",
            gap: 1,
            px: 1,
            py: 0.5,
            borderRadius: 1,
            borderLeft: "3px solid",
            borderColor: isOn ? "primary.main" : "transparent",
            bgcolor: isOn ? "rgba(185,120,171,0.16)" : "transparent",
          }}
        >
          <Typography variant="body2" noWrap>
            {name}
          </Typography>
          {isDefault && (
            <Typography variant="caption" color="textSecondary" noWrap>
              default
            </Typography>
          )}
          {isAgainst && (
            <Typography variant="caption" color="textSecondary" noWrap>
              does not go with the others
            </Typography>
          )}
          <Typography variant="caption" color="textSecondary" sx={{ ml: "auto" }} aria-hidden>
            {hot}
          </Typography>
        </ButtonBase>
        <Box className="on-it">{children}</Box>
      </Box>
      {isOn && words.length > 0 && (
        <Box
          component="ul"
          aria-label={`What ${name} changes`}
          sx={{ m: 0, mb: 0.5, pl: 1.5, listStyle: "none" }}
        >
          {words.map((said) => (
            <Typography
              key={said}
              component="li"
              variant="caption"
              color="textSecondary"
              sx={{ display: "block" }}
            >
              {said}
            </Typography>
          ))}
        </Box>
      )}
    </>
  );
}
