// What is sent to the server. Written by `python -m studio.engine.wire_types`.

export interface Asked {
  text?: string | null;
  revision?: number | null;
  set?: Record<string, any> | null;
  held?: any[] | null;
  lines_held?: string | null;
  moving?: boolean | null;
  construction?: any[] | null;
  working?: number | null;
  drawing?: Record<string, any> | null;
  name?: string | null;
  index?: number | null;
  point?: any[] | null;
  picks?: any[] | null;
  ending?: string | null;
  named?: boolean | null;
}

export interface BarsAsked {
  text?: string | null;
  revision?: number | null;
  set?: Record<string, any> | null;
  held?: any[] | null;
  lines_held?: string | null;
  moving?: boolean | null;
  construction?: any[] | null;
  working?: number | null;
  drawing?: Record<string, any> | null;
  name?: string | null;
  index?: number | null;
  point?: any[] | null;
  picks?: any[] | null;
  ending?: string | null;
  named?: boolean | null;
  bar?: string;
  kerf?: string;
  trim?: string;
}

export interface Turned {
  present?: Record<string, any>;
}

export interface SheetTried {
  text: string;
}

export interface Here {
  window?: string;
  line?: number | null;
  gone?: boolean;
}

export interface RemarkMade {
  said: string;
  line?: number;
  revision?: number | null;
  answers?: number | null;
}

export interface RemarkMeant {
  remark: number;
  settled?: boolean;
}

export interface Change {
  revision?: number | null;
  mine?: number | null;
}

export interface Moment {
  moment: number;
  name?: string;
}

export interface PlanAsked {
  plan?: Record<string, any>;
  set?: Record<string, any> | null;
  first?: number;
  last?: number;
  parts?: boolean;
  revision?: number | null;
}

export interface PictureAsked {
  set?: Record<string, any>;
  held?: any[];
  revision?: number | null;
}

export interface AimAsked {
  name: string;
  goal: string;
  by: any[];
  set?: Record<string, any> | null;
  revision?: number | null;
}

export interface AlongAsked {
  name?: string;
  set?: Record<string, any> | null;
  revision?: number | null;
}

export interface CompareAsked {
  sides: any[];
}

export interface Side {
  title: string;
  set?: Record<string, any> | null;
  moment?: number | null;
  study?: number | null;
}

export interface TableAsked {
  trials: any[];
  values?: any[];
}

export interface FilesAsked {
  plan: Record<string, any>;
  numbers: any[];
  file: string;
  set?: Record<string, any> | null;
  revision?: number | null;
}

export interface SheetKept {
  title: string;
  plan: Record<string, any>;
  set?: Record<string, any>;
  shown?: Record<string, any>;
  revision?: number | null;
}

export interface SheetNumbered {
  sheet: number;
}

export interface BenchAsked {
  set?: Record<string, any> | null;
  machine?: string;
  settings?: Record<string, any>;
  roles?: Record<string, string>;
  plate?: number;
  first?: number;
  last?: number;
  at?: number[] | null;
}

export interface BenchKept {
  machine?: string;
  settings?: Record<string, any>;
  roles?: Record<string, string>;
}

export interface HandOverAsked {
  order: Record<string, any>;
  with_manifest?: boolean;
}

export interface HandedOverAgain {
  number: number;
  anyway?: boolean;
}

export interface ProfileKept {
  text: string;
}

export interface SetInput {
  name: string;
  value?: boolean | number | string | any[] | null;
  typed?: string | null;
  at?: number | null;
  point?: number | null;
}

export interface Limit {
  name: string;
  role: "low" | "high" | "step";
  typed?: string;
  other?: string;
}

export interface Take {
  values: Record<string, any>;
  said?: string;
}

export interface KeepPreset {
  title: string;
  values: Record<string, any>;
}

export interface Internal {
  name: string;
  internal: boolean;
}

export interface Replace {
  line: number;
  text: string;
}

export interface Insert {
  after: number;
  text: string;
}

export interface InsertStarting {
  after: number;
  key: string;
}

export interface Rewrite {
  text: string;
}

export interface Delete {
  line: number;
  last?: number | null;
  all_the_same?: boolean;
}

export interface Move {
  line: number;
  before: number;
  last?: number | null;
}

export interface Lines {
  line: number;
  last?: number | null;
}

export interface Rename {
  name: string;
  new: string;
}

export interface SwapStudy {
  name: string;
  title: string;
}

export interface Named {
  name: string;
}

export interface UnknownToInput {
  name: string;
  line?: number | null;
  after?: number | null;
  text?: string | null;
}

export interface PieceInput {
  name: string;
  argument: string;
  typed?: string | null;
  also?: any[];
}

export interface MovePiece {
  name: string;
  by?: any[] | null;
  typed?: string | null;
}

export interface MoveCorner {
  name: string;
  index: number;
  at: any[];
}

export interface PlaceStudy {
  title: string;
  at: any[];
  facing?: any[] | null;
  on?: string;
}

export interface ArrayItem {
  name: string;
  word: string;
  number: number;
  count: number;
  columns?: number | null;
}

export interface Titled {
  title: string;
}

export type Edit =
  | ({ edit: "set" } & SetInput)
  | ({ edit: "take" } & Take)
  | ({ edit: "keep_preset" } & KeepPreset)
  | ({ edit: "replace" } & Replace)
  | ({ edit: "insert" } & Insert)
  | ({ edit: "insert_starting" } & InsertStarting)
  | ({ edit: "rewrite" } & Rewrite)
  | ({ edit: "delete" } & Delete)
  | ({ edit: "comment" } & Lines)
  | ({ edit: "limit" } & Limit)
  | ({ edit: "internal" } & Internal)
  | ({ edit: "rename" } & Rename)
  | ({ edit: "swap" } & SwapStudy)
  | ({ edit: "to_formula" } & Named)
  | ({ edit: "to_part" } & Named)
  | ({ edit: "move_piece" } & MovePiece)
  | ({ edit: "copy_piece" } & MovePiece)
  | ({ edit: "place_study" } & PlaceStudy)
  | ({ edit: "move_corner" } & MoveCorner)
  | ({ edit: "leave_out" } & ArrayItem)
  | ({ edit: "bring_back" } & ArrayItem)
  | ({ edit: "let_differ" } & ArrayItem)
  | ({ edit: "move" } & Move)
  | ({ edit: "apply_preset" } & Titled)
  | ({ edit: "save_preset" } & Titled)
  | ({ edit: "forget" } & Named)
  | ({ edit: "to_input" } & Named)
  | ({ edit: "piece_input" } & PieceInput)
  | ({ edit: "unknown_to_input" } & UnknownToInput);
