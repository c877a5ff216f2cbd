// What the core tells the page (adjusting.scene, adjusting.session), and what the page keeps of it.
// Types alone: checked, never sent.

/** [width, height], or [low, high]. */
type Pair = number[];
/** [left, top, right, bottom]. */
type Area = number[];
/** [across, down, rest]: at least 0 is across * width + down * height + rest. */
type Condition = number[];
/** By a number, in ascending order. */
type Entries<Value> = [number, Value][];

interface Amount { number: number; unit: "" | "%" | "vw" | "vh"; does?: undefined }
interface Combined { does: "min" | "max" | "multiply" | "divide" | "add"; parts: Calculation[] }
type Calculation = Amount | Combined;
type HeightRule = (Calculation & { aspect?: undefined }) | { aspect: Pair };

interface PageElement {
  height: HeightRule;
  share: number;
  most: number | null;
  growth: number;
  padding: Calculation[];
  drift: number;
  fixed: boolean;
  boxes: Entries<Entries<Pair>> | null;
}

/** What has to hold of a cut, in source px; see framing.wishes. */
interface Wish { source: Pair; aspects: Pair; subjects: Area[]; copy: Area | null; hidden: number }
type Closeness = "wide" | "halfway" | "close";
interface Wanted { closeness: Closeness; sharp: Pair | null; aspect: number | null }
interface CutOrder extends Wish, Wanted { drifts: number; margin: number; usual: Pair | null }
interface Cut { area: Area; position: Pair }

interface Picture {
  look: string;
  source: string;
  size: Pair;
  second: number | null;
  seconds: number | null;
  cut: Area;
  position: Pair;
  subjects: Area[];
  covers: boolean;
  fit: string;
  repeat: string;
  order: CutOrder | null;
}

interface Copy {
  box: Area;
  /** From and to which aspect of the box, and where the copy lies in it. */
  places: [number, number, Area][];
  clear: boolean;
  colour: string | null;
  size: number;
  bold: boolean;
}

interface Spot { window: Pair; place: Pair; contrast: number; plain: number; wanted: number }
interface ListedScreen { name: string; width: number; height: number; density: number }

interface View {
  name: string;
  breakpoint: string;
  low: number;
  high: number | null;
  orientation: "portrait" | "landscape" | null;
  element: PageElement;
  picture: Picture | null;
  behind: string;
  copy: Copy | null;
  scrim: { css: string; strength: number } | null;
  spot: Spot | null;
  screens: ListedScreen[];
  worst: { says: string; window: Pair }[];
  /** Its subject or copy was moved, and it has no cut for that yet. */
  isMoved?: boolean;
  wasMoved?: boolean;
}

type Pictured = View & { picture: Picture };

interface Change { backdrop: string; breakpoint: string; key: string; value: any }
interface Verdict {
  promise: string;
  breakpoint: string;
  state: "holds" | "broken" | "note" | "not measured";
  says: string;
  remedy: string;
  is_rare: boolean;
  offers: { says: string; changes: Change[] }[];
}
interface Load {
  screen: string;
  window: Pair;
  before: number;
  after: number;
  before_seconds: number;
  after_seconds: number;
  tried: boolean;
}

/** A key's value, and the breakpoint where it is written: empty for the backdrop, null nowhere. */
type Written = [any, string | null];

interface Scene {
  name: string;
  element: string;
  digest: string;
  plays: boolean;
  views: View[];
  written: Record<string, Record<string, Written>>;
  verdicts: Verdict[];
  loads: Load[];
  line: string;
}

interface Draft { file: string; cut: Area; position: Pair }
/** By the backdrop's name, then the view's. */
type Drafts = Record<string, Record<string, Draft>>;

interface BriefState {
  title: string;
  file: string;
  digest: string;
  widest: number;
  breakpoints: string[];
  backdrops: { name: string; element: string }[];
  sources: string[];
  undo: boolean;
  redo: boolean;
}

/** What is kept from scene to scene. */
interface Shared { state: BriefState; drafts: Drafts; wide?: Pair; compare?: number | null }

interface Suggestion { box: Area; confidence: number }
interface StillFrame { second: number; look: string }
interface Saved { digest: string; lines: number[]; texts: string[]; kept?: string }
interface Conflict { theirs: { place: string[] }[]; digest: string }

type CopyMoved = (view: View, area: Area, isLast: boolean) => void;
type Told = [string, () => void];
