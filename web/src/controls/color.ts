/** Colour spaces of the picker: linear Rec. 709, sRGB hex, OKLCH (Ottosson 2020), and kelvin. */
import { blackbody } from "../api/fields.gen";
import type { Color } from "../api/types";

const encode = (c: number) => (c <= 0.0031308 ? 12.92 * c : 1.055 * c ** (1 / 2.4) - 0.055);
const decode = (c: number) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4);
const SPAN = blackbody[blackbody.length - 1]![0]! - blackbody[0]![0]!;
const clamp = (c: number, most = 1) => Math.min(Math.max(c, 0), most);

export function toHex(color: Color): string {
  return `#${color
    .map((c) =>
      Math.round(clamp(encode(clamp(c))) * 255)
        .toString(16)
        .padStart(2, "0"),
    )
    .join("")}`;
}

/** Linear colour of "#rrggbb", "rrggbb" or "rgb", or null. */
export function fromHex(text: string): Color | null {
  let digits = text.trim().replace(/^#/, "");
  if (/^[0-9a-f]{3}$/i.test(digits)) digits = [...digits].map((d) => d + d).join("");
  if (!/^[0-9a-f]{6}$/i.test(digits)) return null;
  return [0, 2, 4].map((i) => decode(Number.parseInt(digits.slice(i, i + 2), 16) / 255)) as Color;
}

export interface Lch {
  lightness: number; // 0 to 1
  chroma: number; // 0 to about 0.37
  hue: number; // degrees
}

export function toLch([r, g, b]: Color): Lch {
  const l = Math.cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b);
  const m = Math.cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b);
  const s = Math.cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
  const lightness = 0.2104542553 * l + 0.793617785 * m - 0.0040720468 * s;
  const a = 1.9779984951 * l - 2.428592205 * m + 0.4505937099 * s;
  const bb = 0.0259040371 * l + 0.7827717662 * m - 0.808675766 * s;
  return { lightness, chroma: Math.hypot(a, bb), hue: ((Math.atan2(bb, a) * 180) / Math.PI + 360) % 360 };
}

/** Linear Rec. 709, clipped to what a reflectance may be. */
export function fromLch({ lightness, chroma, hue }: Lch): Color {
  const a = chroma * Math.cos((hue * Math.PI) / 180);
  const b = chroma * Math.sin((hue * Math.PI) / 180);
  const l = (lightness + 0.3963377774 * a + 0.2158037573 * b) ** 3;
  const m = (lightness - 0.1055613458 * a - 0.0638541728 * b) ** 3;
  const s = (lightness - 0.0894841775 * a - 1.291485548 * b) ** 3;
  return [
    clamp(4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s),
    clamp(-1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s),
    clamp(-0.0041960863 * l - 0.7034186147 * m + 1.707614701 * s),
  ];
}

/**
 * Linear colour of a black body, brightest channel 1, from the core's table over reciprocal temperature; beyond its ends
 * that of the end.
 */
export function fromKelvin(kelvin: number): Color {
  const rows: readonly (readonly number[])[] = blackbody;
  const mired = clamp((1e6 / Math.max(kelvin, 1) - rows[0]![0]!) / SPAN, 1) * (rows.length - 1);
  const before = Math.min(Math.floor(mired), rows.length - 2);
  const share = mired - before;
  const color = [1, 2, 3].map((i) => rows[before]![i]! * (1 - share) + rows[before + 1]![i]! * share);
  const most = Math.max(...color);
  return color.map((c) => c / most) as Color;
}
