// What a scene tells. Written by `python -m studio.engine.wire_types`.

export interface ProblemTold {
  line: number;
  column: number;
  name: string | null;
  item: number | null;
  items: number[];
  message: string;
  hint: string;
}

export interface NoteTold {
  line: number;
  column: number;
  message: string;
  overruled: string;
}

export interface LineSaid {
  line: number;
  text: string;
  type: string;
  name: string | null;
  body: string;
  comment: string;
  title: string;
  lead?: string;
}

export interface ProblemSaid {
  line: number;
  column: number;
  name: string | null;
  item: number | null;
  items: number[];
  message: string;
  hint: string;
  end_column: number | null;
  struck: string;
  waiting: boolean;
  unknown: string;
}

export interface StudySaid {
  inputs: string[];
  yields: string[];
}

export interface OutcomeSaid {
  kind: string;
  number: string;
  unit: string;
  label: string;
  needs: string[];
  problems: ProblemSaid[];
  notes: NoteTold[];
  study: StudySaid | null;
  said?: string;
  coming?: boolean;
}

export interface InputSaid {
  name: string | null;
  label: string;
  help: string;
  line: number;
  kind: string;
  section: string;
  internal: boolean;
  problem: string;
  value: number | boolean | string | number[] | null;
  choices: any[];
  seed?: boolean;
  number?: string;
  numbers?: string[];
  unit?: string;
  size?: number;
  width?: number;
  low?: number | null;
  high?: number | null;
  step?: number | null;
  low_shown?: string;
  high_shown?: string;
  step_shown?: string;
  choices_shown?: string[];
}

export interface ShapeSaid {
  positions: Float32Array;
  normals: Float32Array;
  triangles: Uint32Array;
  edges: Float32Array;
}

export interface GroupSaid {
  shape: string;
  matrices: Float32Array;
  items: Uint32Array;
  tints: Uint32Array | null;
}

export interface LegendSaid {
  said: string;
  colour: string;
}

export interface PartSaid {
  name: string;
  label: string;
  colour: string;
  line: number;
  count: number;
  solid: boolean;
  triangles: number;
  bounds: (number[])[] | null;
  groups: GroupSaid[];
  legend: LegendSaid[];
  hatch: Float32Array;
  cutHatch: number[];
  mass: string;
}

export interface ConstructionSaid {
  name: string;
  line: number;
  groups: GroupSaid[];
  points: (number[])[];
}

export interface CheckSaid {
  text: string;
  message: string;
  passed: boolean | null;
  line: number;
  measured: string;
  doubt: string;
}

export interface DimSaid {
  line: number;
  said: string;
  form: string;
  start: number[];
  end: number[];
  offset: number;
  wrong: boolean;
  name: string;
  shown: string;
  segments: number[];
  place: number[];
}

export interface CornerSaid {
  name: string | null;
  index: number;
  at: number[];
  free: string[];
  beside: (number[])[];
}

export interface StepSaid {
  line: number;
  name: string;
  label: string;
  role: string;
  formula: string;
  numbers: string;
  result: string;
  problem: string;
  comment: string;
  exactness: string;
}

export interface UnderlaySaid {
  name: string | null;
  file: string;
  digest: string;
  line: number;
  size: number[];
  corners: (number[])[];
  strength: number;
}

export interface LengthUnitSaid {
  symbol: string;
  size: number;
}

export interface PresetSaid {
  title: string;
  same: boolean;
}

export interface LinesSaid {
  lines_of: string;
  lines?: LineSaid[];
}

export interface SceneSaid {
  lines_of: string;
  lines?: LineSaid[];
  study: string;
  length_unit: LengthUnitSaid;
  outcomes: Record<number, OutcomeSaid>;
  inputs: InputSaid[];
  presets: PresetSaid[];
  parts: PartSaid[];
  loose: PartSaid[];
  checks: CheckSaid[];
  dims: DimSaid[];
  problems: ProblemSaid[];
  construction: ConstructionSaid[];
  corners: CornerSaid[];
  working: StepSaid[];
  underlays: UnderlaySaid[];
  drawing: Record<string, any> | null;
  shapes: Record<string, ShapeSaid>;
  coming: boolean;
}
