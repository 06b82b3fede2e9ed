/** Materials: the surface of the selected part. */
import Chip from "@mui/material/Chip";
import Stack from "@mui/material/Stack";
import Typography from "@mui/material/Typography";
import { useShallow } from "zustand/react/shallow";
import type { Material } from "../api/types";
import { PartsList } from "../asset/AssetStop";
import { BoundColor, BoundQuantity, BoundSwitch, Section } from "../controls/bound";
import { useSlice } from "../store/context";
import type { WorkspaceState } from "../store/workspace";

const TEXTURES: [keyof Material, string][] = [
  ["base_color_texture", "Colour"],
  ["metallic_roughness_texture", "Metalness and roughness"],
  ["normal_texture", "Normal"],
  ["emission_texture", "Emission"],
  ["transmission_texture", "Transmission"],
  ["coat_normal_texture", "Coat normal"],
];

export function MaterialsStop() {
  const keys = useSlice(
    useShallow((s: WorkspaceState) => {
      const worn = s.selection.map((part) => s.scene.parts[part]?.material);
      return [...new Set(worn.filter((key) => key !== undefined))];
    }),
  );
  if (keys.length === 0) {
    return (
      <>
        <Typography color="textSecondary" variant="body2" sx={{ mb: 2 }}>
          Click a part in the picture, or choose one here.
        </Typography>
        <PartsList />
      </>
    );
  }
  return <MaterialControls key={keys.join(" ")} materials={keys} />;
}

/** The controls of one material, or of several at once; what is shown only where it matters goes by the first. */
function MaterialControls({ materials }: { materials: string[] }) {
  const material = useSlice((s) => s.scene.materials[materials[0]!]!);
  const names = useSlice((s) => materials.map((key) => s.scene.materials[key]!.name).join(", "));
  const users = useSlice((s) =>
    Object.values(s.scene.parts)
      .filter((p) => materials.includes(p.material))
      .map((p) => p.name)
      .join(", "),
  );
  const at = materials.map((key) => ["materials", key]);
  const anisotropic = material.specular_roughness_anisotropy > 0 || material.coat_roughness_anisotropy > 0;
  // Of several, no map is that of all.
  const maps = materials.length === 1 ? TEXTURES.filter(([field]) => material[field]) : [];
  return (
    <>
      <Typography sx={{ fontWeight: 600 }}>{names}</Typography>
      <Typography variant="caption" color="textSecondary" component="p" sx={{ mb: 1.5 }}>
        on {users}
      </Typography>
      {maps.length > 0 && (
        <Stack
          direction="row"
          useFlexGap
          sx={{ flexWrap: "wrap", gap: 0.5, mb: 1.5 }}
          aria-label="Texture maps"
        >
          {maps.map(([field, label]) => (
            <Chip
              key={field}
              size="small"
              variant="outlined"
              label={`${label} map`}
              sx={{ fontSize: 11, height: 20 }}
            />
          ))}
        </Stack>
      )}
      <Section title="Base">
        <BoundColor model="Material" at={at} name="base_color" />
        <BoundQuantity model="Material" at={at} name="base_metalness" />
        <BoundQuantity model="Material" at={at} name="base_diffuse_roughness" />
        {material.normal_texture && <BoundQuantity model="Material" at={at} name="normal_scale" />}
      </Section>
      <Section title="Gloss">
        <BoundQuantity model="Material" at={at} name="specular_weight" />
        <BoundQuantity model="Material" at={at} name="specular_roughness" />
        <BoundQuantity model="Material" at={at} name="specular_ior" />
        <BoundColor model="Material" at={at} name="specular_color" />
        <BoundQuantity model="Material" at={at} name="specular_roughness_anisotropy" />
        {anisotropic && <BoundQuantity model="Material" at={at} name="tangent_rotation" />}
      </Section>
      <Section title="Transmission">
        <BoundQuantity model="Material" at={at} name="transmission_weight" />
        {material.transmission_weight > 0 && (
          <>
            <BoundColor model="Material" at={at} name="transmission_tint" />
            <BoundColor model="Material" at={at} name="transmission_color" />
            <BoundQuantity model="Material" at={at} name="transmission_depth" />
            <BoundColor model="Material" at={at} name="transmission_scatter" />
            <BoundQuantity model="Material" at={at} name="transmission_scatter_anisotropy" />
            <BoundQuantity model="Material" at={at} name="transmission_dispersion_scale" />
            {material.transmission_dispersion_scale > 0 && (
              <BoundQuantity model="Material" at={at} name="transmission_dispersion_abbe_number" />
            )}
            <BoundQuantity model="Material" at={at} name="interior_priority" />
          </>
        )}
      </Section>
      <Section title="Subsurface">
        <BoundQuantity model="Material" at={at} name="subsurface_weight" />
        {material.subsurface_weight > 0 && (
          <>
            <BoundColor model="Material" at={at} name="subsurface_color" />
            <BoundQuantity model="Material" at={at} name="subsurface_radius" />
            <BoundColor model="Material" at={at} name="subsurface_radius_scale" />
            <BoundQuantity model="Material" at={at} name="subsurface_scatter_anisotropy" />
          </>
        )}
      </Section>
      <Section title="Coat">
        <BoundQuantity model="Material" at={at} name="coat_weight" />
        {material.coat_weight > 0 && (
          <>
            <BoundQuantity model="Material" at={at} name="coat_roughness" />
            <BoundColor model="Material" at={at} name="coat_color" />
            <BoundQuantity model="Material" at={at} name="coat_ior" />
            <BoundQuantity model="Material" at={at} name="coat_darkening" />
            <BoundQuantity model="Material" at={at} name="coat_roughness_anisotropy" />
            {material.coat_normal_texture && (
              <BoundQuantity model="Material" at={at} name="coat_normal_scale" />
            )}
          </>
        )}
      </Section>
      <Section title="Fuzz">
        <BoundQuantity model="Material" at={at} name="fuzz_weight" />
        {material.fuzz_weight > 0 && (
          <>
            <BoundColor model="Material" at={at} name="fuzz_color" />
            <BoundQuantity model="Material" at={at} name="fuzz_roughness" />
          </>
        )}
      </Section>
      <Section title="Thin film">
        <BoundQuantity model="Material" at={at} name="thin_film_weight" />
        {material.thin_film_weight > 0 && (
          <>
            <BoundQuantity model="Material" at={at} name="thin_film_thickness" />
            <BoundQuantity model="Material" at={at} name="thin_film_ior" />
          </>
        )}
      </Section>
      <Section title="Geometry">
        <BoundQuantity model="Material" at={at} name="geometry_opacity" />
        <BoundSwitch model="Material" at={at} name="geometry_thin_walled" />
        <BoundSwitch model="Material" at={at} name="double_sided" />
        <BoundSwitch model="Material" at={at} name="vertex_colors" />
      </Section>
      <Section title="Emission">
        <BoundQuantity model="Material" at={at} name="emission_luminance" />
        {material.emission_luminance > 0 && <BoundColor model="Material" at={at} name="emission_color" />}
      </Section>
    </>
  );
}
