/** Terms of the trade, explained in a sentence where they stand. */
export const TERMS = {
  "cold Voc":
    "Open-circuit volts of the whole string on the coldest morning: the highest volts it ever " +
    "has. They stay under every limit.",
  "hot Vmp":
    "Working volts of the whole string with its cells at their hottest: the lowest it works at. " +
    "The input still has to track there.",
  room: "What is left between the figure and its limit; with a minus it is beyond.",
  uneven:
    "Watts on the fullest input less those on the emptiest: nought where all inputs carry alike.",
  NMOT:
    "Temperature of a module's cells at 800 W/m², 20 °C and a light wind, as its maker measured " +
    "it. From it follows how hot cells are in a light and an air that are read.",
  "full power":
    "The volts within which an input takes its whole power; below it still tracks, and gives less.",
} as const;

export type TermName = keyof typeof TERMS;
