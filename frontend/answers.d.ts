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

export interface ScheduleSaid {
  heads: string[];
  rows: (string[])[];
  stock: string[];
  count: number;
}

export interface WholeScheduleSaid {
  heads: string[];
  rows: (string[])[];
  stock: string[];
  count: number;
  placed: (string[])[];
}

export interface SettingSaid {
  name: string;
  label: string;
  said: string;
  unit: string;
  typed: string;
  choices: string[];
}

export interface SettingsSaid {
  group: string;
  settings: SettingSaid[];
}

export interface BenchPartSaid {
  name: string;
  label: string;
  count: number;
  solid: boolean;
  role: string;
}

export interface RefusedSaid {
  said: string;
  hint: string;
}

export interface LaidOutSaid {
  rail: SettingsSaid[];
  title: string;
  parts: BenchPartSaid[];
  roles: string[];
  refused: RefusedSaid[];
  failure: RefusedSaid | null;
}

export interface PrintedBodySaid {
  label: string;
  size: number[];
  count: number;
  lost: number;
  layers: number;
  volume: number;
}

export interface PrintedPlaceSaid {
  body: number;
  x: number;
  y: number;
  size: number[];
}

export interface PlateSaid {
  layers: number;
  solid: number;
  held: number;
  places: PrintedPlaceSaid[];
}

export interface PrintSaid {
  bodies: PrintedBodySaid[];
  plates: PlateSaid[];
  levels: number[];
  heights: number[];
  line: number;
  width: number;
  depth: number;
  material: number;
}

export interface PrintLaidSaid {
  rail: SettingsSaid[];
  title: string;
  parts: BenchPartSaid[];
  roles: string[];
  refused: RefusedSaid[];
  failure: RefusedSaid | null;
  print: PrintSaid | null;
}

export interface LayerFiguresSaid {
  area: number;
  lengths: Record<string, number>;
  volume: number;
  seconds: number;
}

export interface FindingSaid {
  kind: string;
  layer: number;
  at: number[];
  width: number;
  area: number;
  label: string;
}

export interface LayersSaid {
  first: number;
  figures: LayerFiguresSaid[];
  found: FindingSaid[];
  more: number;
  outlines: ((number[])[])[];
}

export interface LineSaid {
  role: string;
  at: number[];
  width: number;
}

export interface LayerSaid {
  layer: number;
  lines: LineSaid[];
  outer: string;
}

export interface PrintedSaid {
  volume: number;
  line: number;
  travel: number;
  seconds: number;
  moves: number;
  levels: number;
  at: number[];
  last: number;
}

export interface NestSaid {
  thickness: number | null;
  by: string;
  sheets: number;
  pieces: number;
  taken: number;
}

export interface CutPieceSaid {
  laid: number;
  mark: string;
  label: string;
  size: number[];
  middle: number[];
  path: string;
}

export interface CutSaid {
  kind: string;
  lead: number[] | null;
  start: number[];
  end: number[];
  paths: string[];
}

export interface CutSheetSaid {
  thickness: number | null;
  used: number;
  remnant: number;
  length: number;
  travel: number;
  pierces: number;
  seconds: number;
  pieces: CutPieceSaid[];
  cuts: CutSaid[];
}

export interface CutPlanSaid {
  width: number;
  height: number;
  margin: number;
  nests: NestSaid[];
  sheets: CutSheetSaid[];
}

export interface BarCutSaid {
  number: number;
  cuts: ([number, number])[];
  rest: number;
}

export interface SectionSaid {
  title: string;
  said: string;
  fails: boolean;
  bars: string[];
}

export interface DrawnSectionSaid {
  title: string;
  said: string;
  fails: boolean;
  bars: string[];
  drawn: BarCutSaid[];
}

export interface BarsSaid {
  sections: SectionSaid[];
}

export interface CutBarsSaid {
  said: string;
  sections: DrawnSectionSaid[];
  bar?: number;
  kerf?: number;
  trim?: number;
}

export interface CutLaidSaid {
  rail: SettingsSaid[];
  title: string;
  parts: BenchPartSaid[];
  roles: string[];
  refused: RefusedSaid[];
  failure: RefusedSaid | null;
  plan: CutPlanSaid | null;
  bars: CutBarsSaid;
}

export interface MeasuredPieceSaid {
  laid: number;
  off: number;
  corner: number;
  uncut: number;
  free: boolean;
  held: boolean;
}

export interface CutMeasuredSaid {
  pieces: MeasuredPieceSaid[];
  seconds: number;
  length: number;
  travel: number;
  pierces: number;
}

export interface ChoiceSaid {
  value: any;
  said: string;
}

export interface AxisSaid {
  name: string;
  label: string;
  value: any;
  said: string;
  choices: ChoiceSaid[];
  seed: boolean;
  low?: number;
  high?: number;
  step?: number;
  base?: number;
  unit?: string;
  size?: number;
  low_said?: string;
  high_said?: string;
}

export interface FigureSaid {
  name: string;
  label: string;
}

export interface VariationsSaid {
  axes: AxisSaid[];
  fixed: string[];
  values: FigureSaid[];
}

export interface PlanSaid {
  count: number;
  varied: string[];
}

export interface ExerciseStepSaid {
  said: string;
  hint: string;
  missing: string;
}

export interface SeenSaid {
  steps: ExerciseStepSaid[];
  problems: string[];
  done: boolean;
}

export interface TriedCheckSaid {
  said: string;
  holds: boolean | null;
}

export interface TriedSaid {
  values: LocalValueSaid[];
  problems: string[];
  checks: TriedCheckSaid[];
  picture: string;
}

export interface ArgumentSaid {
  name: string;
  kind: string;
  meaning: string;
  default: string | null;
  optional: boolean;
  many: boolean;
  written: string;
}

export interface WordSaid {
  name: string;
  trade: string;
  usage: string;
  meaning: string;
  constant: boolean;
  example: string;
  gives: string;
  others: string[];
  parameters: ArgumentSaid[];
  picture: Picture | null;
}

export interface NeedSaid {
  title: string;
  trades: string[];
}

export interface StartingSaid {
  key: string;
  title: string;
  said: string;
  needs: string;
}

export interface VocabularySaid {
  words: WordSaid[];
  constructs: Construct[];
  needs: NeedSaid[];
  starting: StartingSaid[];
  operators: Operator[];
  unit_names: Record<string, string>;
  units: Record<string, string>;
  colours: Record<string, string>;
  reserved: string[];
  statements: Record<string, string>;
  clauses: Record<string, string[]>;
}

export interface FileSaid {
  name: string;
  size: number;
}

export interface StandingSaid {
  shown: string;
}

export interface StateSaid {
  title: string;
  text: string;
  revision: number | null;
  can_undo: boolean;
  can_redo: boolean;
  undo_said: string;
  redo_said: string;
  used: Record<string, number | string | null>;
  files: FileSaid[];
  shown: string;
  pictured: boolean;
}

export interface ClashSaid {
  base: string;
  mine: string | null;
  theirs: string | null;
}

export interface NotDoneSaid {
  message: string;
  hint: string;
  needed?: boolean;
  revision?: number | null;
  clashes?: ClashSaid[];
}

export interface TurnedSaid {
  set: Record<string, any>;
}

export interface StudyTitleSaid {
  study: number;
  title: string;
}

export interface StudiesSaid {
  studies: StudyTitleSaid[];
}

export interface PersonSaid {
  name: string;
  me: boolean;
  line: number | null;
}

export interface NewsSaid {
  revision: number | null;
  undo_said: string;
  by: string;
  used: Record<string, number | null>;
  people: PersonSaid[];
  remarks: string;
  may: string[];
}

export interface RemarkSaid {
  remark: number;
  said: string;
  by: string;
  at: string;
  settled: boolean;
  settled_by: string;
  mine: boolean;
}

export interface BeginningSaid {
  remark: number;
  said: string;
  by: string;
  at: string;
  settled: boolean;
  settled_by: string;
  mine: boolean;
  line: number | null;
  text: string;
  answers: RemarkSaid[];
}

export interface RemarksSaid {
  remarks: BeginningSaid[];
  stamp: string;
}

export interface MomentSaid {
  revision: number;
  said: string;
  name: string;
  by: string;
  at: string;
  here: boolean;
}

export interface MomentsSaid {
  moments: MomentSaid[];
  count: number;
}

export interface OtherStudySaid {
  study: number;
  title: string;
  inputs: string[];
}

export interface UserSaid {
  study: number;
  title: string;
  line: number;
  name: string;
  inputs: string[];
  read: string[];
}

export interface BesideSaid {
  others: OtherStudySaid[];
  users: UserSaid[];
}

export interface FileSeenSaid {
  heads: string[];
  rows: (string[])[];
  count: number;
  notes: string[];
}

export interface PlanMadeSaid {
  count: number;
  varied: string[];
  revision: number | null;
}

export interface ContactSheetSaid {
  sheet: number;
  title: string;
  plan: Record<string, any>;
  set: Record<string, any>;
  shown: Record<string, any>;
  stale: boolean;
}

export interface ContactSheetsSaid {
  sheets: ContactSheetSaid[];
}

export interface ProfileSaid {
  text: string;
  own: boolean;
}

export interface ProfileTitleSaid {
  title: string;
  own: boolean;
}

export interface ProfilesSaid {
  profiles: ProfileTitleSaid[];
  title?: string;
}

export interface NextSaid {
  key: string;
  title: string;
}

export interface GuideSaid {
  steps: ExerciseStepSaid[];
  problems: string[];
  done: boolean;
  title: string;
  goal: string;
  number: number;
  next: NextSaid | null;
}

export interface FoundSaid {
  found: string[];
  points: string[];
}

export interface SunSaid {
  direction: number[];
  height: number;
  turn: number;
}

export interface Check {
  text: string;
  message: string;
  passed: boolean | null;
  line: number;
  measured: string;
  sure: boolean;
}

export interface TriedPart {
  label: string;
  pieces: number;
  mass: number | null;
  mass_said: string;
}

export interface Trial {
  number: number;
  title: string;
  settings: Record<string, any>;
  said: Record<string, string>;
  values: Record<string, number | boolean | string>;
  texts: Record<string, string>;
  checks: Check[];
  problems: string[];
  parts: Record<string, TriedPart>;
  reasons: string[];
  why: string;
}

export interface Found {
  settings: Record<string, any>;
  said: Record<string, string>;
  reached: number;
  reached_said: string;
  exact: boolean;
  failing: string[];
  note: string;
}

export interface Aim {
  goal_said: string;
  found: Found[];
  reason: string;
  binding: string[];
}

export interface Bar {
  name: string;
  label: string;
  least: number;
  most: number;
  least_said: string;
  most_said: string;
  at_least: any;
  at_most: any;
  at_least_said: string;
  at_most_said: string;
  without: number;
}

export interface Reach {
  present: number | null;
  present_said: string;
  bars: Bar[];
  still: string[];
}

export interface Band {
  low: any;
  high: any;
  why: string;
}

export interface Bands {
  name: string;
  failing: Band[];
  whole: boolean;
}

export interface Breaking {
  why: string;
  count: number;
  settings: Record<string, any>;
  said: Record<string, string>;
}

export interface Verdict {
  line: number;
  text: string;
  message: string;
  verdict: string;
  inputs: string[];
  settings: Record<string, any>;
  said: Record<string, string>;
  share: number;
  why: string;
}

export interface Proof {
  tried: number;
  breakings: Breaking[];
  verdicts: Verdict[];
}

export interface Row {
  what: string;
  name: string;
  sides: string[];
  differs: boolean;
}

export interface Comparison {
  titles: string[];
  rows: Row[];
}

export interface Swap {
  title: string;
  missing: string[];
  misfits: string[];
  unread: string[];
  extra: string[];
  without: string[];
  fits: boolean;
}

export interface Blank {
  name: string;
  kind: string;
  meaning: string;
  written: string;
  optional: boolean;
}

export interface Construct {
  need: string;
  title: string;
  pattern: string;
  blanks: Blank[];
}

export interface Operator {
  written: string;
  meaning: string;
  example: string;
  gives: string;
  others: string[];
}

export interface Picture {
  lines: (([number, number])[])[];
  bars: (([number, number])[])[];
  dots: ([number, number])[];
}
