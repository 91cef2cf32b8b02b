/** Lengths on drawings, short, in the unit they are shown in. */
import { plain } from "./format";
import { shownAs, signOf, toShown } from "./shown";

export const lengthText = (metres: number): string => {
  const shown = shownAs("m");
  return shown ? `${plain(toShown(metres, shown), 0)} ${signOf(shown)}` : `${plain(metres, 1)} m`;
};
