/** Whether a new environment keeps the picture as bright as it was, by moving the exposure. */
import { keep, kept } from "../store/kept";

const NAME = "environment keeps brightness";

export const keepsBrightness = (): boolean => kept(NAME, true);
export const keepBrightness = (isKept: boolean) => keep(NAME, isKept);
