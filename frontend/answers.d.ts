// What is answered. Written by `python -m studio.engine.wire_types`.

export interface MoveSaid {
  line: number;
  name: string;
  before: string;
  after: string;
}

export interface MovesSaid {
  moves: MoveSaid[];
}

export interface LocalValueSaid {
  name: string;
  shown: string;
}

export interface ArrayPlaceSaid {
  line: string;
  word: string;
  number: number;
  column: number | null;
  row: number | null;
  left_out: number[];
  count: number;
  columns: number | null;
}

export interface HoleSaid {
  of: string;
  place: ArrayPlaceSaid;
}

export interface PieceInputSaid {
  name: string;
  label: string;
  own: string | null;
  value: string;
  choices: string[];
}

export interface PieceSaid {
  title: string;
  inputs: PieceInputSaid[];
  preset: string | null;
  place: number[] | null;
  level: boolean;
}

export interface ItemSaid {
  piece: PieceSaid | null;
  values: LocalValueSaid[];
  place: ArrayPlaceSaid | null;
  hole: HoleSaid | null;
}

export interface CutItemSaid {
  number: number;
  middle: number[];
}

export interface NumbersSaid {
  numbers: Record<string, number[] | null>;
  cuts: Record<string, CutItemSaid[]>;
}

export interface MeasuredSaid {
  found: LocalValueSaid[];
  ends: (number[])[] | null;
  outline: ((number[])[])[];
  dim: string;
  check: string;
}

export interface OutlineSaid {
  lines: string[];
}
