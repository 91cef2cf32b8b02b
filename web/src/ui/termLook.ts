/** How a term looks that can be asked about. */
export const termLook =
  "cursor-help underline decoration-dotted underline-offset-2 [font:inherit] text-inherit";
