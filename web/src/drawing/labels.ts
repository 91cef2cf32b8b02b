/** Places for labels, so that none lies over another. Widths are of our own type, a little wide. */

/** Width of a text in the drawing's units. */
export const widthOf = (text: string, size: number): number => text.length * size * 0.5;

export interface Label {
  text: string;
  /** Where it begins, or ends. */
  x: number;
  ends?: boolean;
}

export interface Placed extends Label {
  /** Its line, from the drawing up. */
  line: number;
}

/** Labels over a drawing: on the lowest line that is free there, inside from left to right. */
export function lines(labels: readonly Label[], size: number, right: number): Placed[] {
  const taken: [from: number, to: number][][] = [];
  return labels.map((label) => {
    const width = widthOf(label.text, size);
    const from = Math.min(label.ends ? label.x - width : label.x, right - width);
    const span: [number, number] = [from - 4, from + width + 4];
    const free = (line: (typeof taken)[number]) =>
      line.every(([a, b]) => span[1] <= a || b <= span[0]);
    let line = taken.findIndex(free);
    if (line < 0) line = taken.push([]) - 1;
    taken[line]?.push(span);
    return { ...label, x: label.ends ? from + width : from, line };
  });
}

/** The middles of two texts on a line, moved apart where they would touch, and off what is left. */
export function apart(
  a: { text: string; x: number } | null,
  b: { text: string; x: number } | null,
  size: number,
  left: number,
): [number, number] {
  const [wa, wb] = [widthOf(a?.text ?? "", size), widthOf(b?.text ?? "", size)];
  const first = Math.max(a?.x ?? left, left + wa / 2);
  if (!b) return [first, first];
  if (!a) return [first, Math.max(b.x, left + wb / 2)];
  const room = (wa + wb) / 2 + 6;
  return [first, Math.max(b.x, first + room)];
}
