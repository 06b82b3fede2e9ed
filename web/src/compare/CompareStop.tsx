/** Compare: groups of variants made by doing, and what of them is on. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { Plus } from "lucide-react";
import { AddAsset } from "../asset/AddAsset";
import { ShowingSection } from "../showings/ShowingSection";
import { useScene, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { TakeSection } from "../takes/TakeSection";
import { BrandColors } from "./BrandColors";
import { GroupOfVariants } from "./GroupOfVariants";
import { PairSection } from "./Pair";
import { useStanding } from "./standing";

export function CompareStop() {
  const workspace = useWorkspace();
  const groups = useScene((s) => s.variant_groups);
  const standing = useStanding();
  const keys = Object.keys(groups);
  return (
    <>
      <TakeSection />
      <PairSection />
      <ShowingSection />
      <Typography variant="body2" color="textSecondary" sx={{ mb: 1.25 }}>
        {keys.length === 0
          ? "Begin variants, change what is to differ (a material, what is seen, a place, the light, the look), and keep it. What was before stays the first of them."
          : counted(standing.combinations, standing.allowed)}
      </Typography>
      {keys.map((key, place) => (
        <GroupOfVariants
          key={key}
          id={key}
          group={groups[key]!}
          standing={standing}
          hasKeys={place === keys.length - 1}
        />
      ))}
      <Box sx={{ mt: 1 }}>
        <Button
          fullWidth
          size="small"
          variant="outlined"
          startIcon={<Plus size={15} />}
          onClick={() => void workspace.commitBy("begin_variants", SHOT)}
        >
          Begin variants
        </Button>
        <Box sx={{ mt: 0.75 }}>
          <AddAsset asVariant />
        </Box>
        {Object.values(groups).some((group) => group.default) && (
          <Button
            fullWidth
            size="small"
            onClick={() => void workspace.commitBy("take_defaults", SHOT)}
            sx={{ mt: 0.5 }}
          >
            All as by default
          </Button>
        )}
      </Box>
      <Box sx={{ mt: 2 }}>
        <BrandColors />
      </Box>
    </>
  );
}

const counted = (all: number, allowed: number) =>
  `${all.toLocaleString("en")} ${all === 1 ? "combination" : "combinations"}${
    allowed < all ? `, of which ${allowed.toLocaleString("en")} go together` : ""
  }`;
