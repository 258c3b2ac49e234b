// A coarse picture of what is covered, in cells.

// `cells` are pixels of four bytes, row by row from below; a cell is covered where the first is not 0.
export function shareOfCells(cells, width, height, cell) {
  return ({ x, y, width: wide, height: high }) => {
    const [left, right] = [x - wide / 2, x + wide / 2].map((at) => Math.floor(at / cell));
    const [top, bottom] = [y - high / 2, y + high / 2].map((at) => Math.floor(at / cell));
    let met = 0;
    let all = 0;
    for (let row = top; row <= bottom; row++) {
      for (let column = left; column <= right; column++) {
        all += 1;
        const inside = row >= 0 && row < height && column >= 0 && column < width;
        if (inside && cells[4 * ((height - 1 - row) * width + column)]) met += 1;
      }
    }
    return met / all;
  };
}
