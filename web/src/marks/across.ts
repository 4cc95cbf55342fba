/** The path of a line between two boxes that stand beside each other. */
export const across = (fromX: number, fromY: number, toX: number, toY: number): string =>
  `M${fromX} ${fromY} C${(fromX + toX) / 2} ${fromY} ${(fromX + toX) / 2} ${toY} ${toX} ${toY}`;
