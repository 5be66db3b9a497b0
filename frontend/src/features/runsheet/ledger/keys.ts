/** Moving among the cells of the sheet, and pasting over several of them. */

import type { KeyboardEvent } from "react";

type Way = "up" | "down" | "left" | "next";
const STEPS: Record<Way, [number, number]> = {
  up: [-1, 0],
  down: [1, 0],
  left: [0, -1],
  next: [0, 1],
};

function cellAt(from: HTMLElement, row: number, column: number): HTMLElement | null {
  return (
    from
      .closest("table")
      ?.querySelector<HTMLElement>(`[data-at="${row},${column}"]:not(:disabled)`) ?? null
  );
}

/** Focus the next cell that way, over gaps; false where there is none. */
export function moveFrom(from: HTMLElement, at: [number, number], way: Way): boolean {
  const [down, along] = STEPS[way];
  for (let i = 1; i < 60; i++) {
    const cell = cellAt(from, at[0] + down * i, at[1] + along * i);
    if (cell) {
      cell.focus();
      return true;
    }
  }
  return false;
}

const ARROWS: Record<string, Way> = {
  ArrowUp: "up",
  ArrowDown: "down",
  ArrowLeft: "left",
  ArrowRight: "next",
};

/** The arrow keys on a number that is not typed in: `onKeyDown={arrowsFrom([-1, 3])}`. */
export function arrowsFrom(at: [number, number]) {
  return (event: KeyboardEvent<HTMLElement>) => {
    const way = event.altKey ? undefined : ARROWS[event.key];
    if (way && moveFrom(event.currentTarget, at, way)) event.preventDefault();
  };
}

/** Put a block copied from a spreadsheet into the cells to the right and below. */
export function spread(block: string, from: HTMLInputElement, at: [number, number]): void {
  const rows = block.replace(/\r/g, "").replace(/\n+$/, "").split("\n");
  rows.forEach((row, down) => {
    let column = at[1];
    for (const value of row.split("\t")) {
      const cell = cellAt(from, at[0] + down, column);
      column += 1;
      if (cell instanceof HTMLInputElement && value.trim()) type(cell, value.trim());
    }
  });
}

function type(cell: HTMLInputElement, value: string): void {
  const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value")?.set;
  cell.focus();
  set?.call(cell, value);
  cell.dispatchEvent(new Event("input", { bubbles: true }));
  cell.blur();
}
