// What the program tells a page, and how a frame is read. docs/live.md describes it.

export type Point = [number, number, number];

export interface NpcInfo {
  name: string;
  tags: string[];
  radius: number;
  height: number;
  deck: [number, number];
  shared_gait: string | null;
  do: Record<string, unknown>[];
  orders: { verb: string; values: Record<string, number> }[];
}

export interface Scene {
  revision: number;
  play: number;
  title: string;
  file: string;
  rate: number;
  length: number;
  changed: boolean;
  kind: string;
  min: [number, number];
  max: [number, number];
  barriers: boolean;
  levels: boolean;
  places: { name: string; at: Point }[];
  // No path: an event added the waypoint, so the file has none that could be moved.
  beats: { npc: string; points: { at: Point; path: string[] }[]; line: Point[] }[];
  tags: string[];
  npcs: NpcInfo[];
}

export interface Level {
  solid: string;
  barred: string;
  decor: string;
}

export interface Barrier {
  name: string;
  corners: [number, number][];
  radius: number;
  bottom: number | null;
  top: number | null;
  cost: number;
}

export interface Ground {
  revision: number;
  tiles?: { width: number; height: number; cell: number; origin: [number, number]; costs: string };
  mesh?: { triangles: string; costly: string; edges: string };
  crossings?: { name: string; kind: string; from: Point; to: Point; shut: boolean }[];
  barriers: Barrier[];
}

export interface CloseLook {
  name: string;
  doing: string;
  order: string;
  stance: string;
  turn_deg: number;
  stop: number;
  at: Point;
  speed: number;
  walked: number;
  reached: number;
  outcomes: Record<string, number>;
  bends: Point[];
  wanted: [number, number];
  neighbours: { name: string; off: [number, number] }[];
  left: number | null;
  goal: Point | null;
  within: number;
  target: string;
  gait: Record<string, number>;
  body: Record<string, number>;
  last?: { ending: string; why: string };
  scorecard?: {
    detour: number | null;
    bend_slowdown: number;
    sliding: number;
    heading_jitters: number;
    vertical_speed: number;
    jam_turning: number;
  };
}

export interface JournalLine {
  t: number;
  npc: string;
  event: string;
  good: boolean;
  text: string;
}

export type Message =
  | { type: 'hello'; page: number }
  | ({ type: 'scene' } & Scene)
  | ({ type: 'level' } & Level)
  | ({ type: 'ground' } & Ground)
  | { type: 'closely'; t: number; npcs: CloseLook[]; routes: Point[][] }
  | { type: 'journal'; notes: JournalLine[] }
  | { type: 'remark'; text: string };

/** One moment: where everybody is, in the order of the list. */
export class Frame {
  static readonly head = 32;
  static readonly each = 20;
  readonly time: number;
  readonly scene: number;
  readonly ticks: number;
  readonly speed: number;
  readonly playing: boolean;
  readonly count: number;

  constructor(private readonly bytes: DataView) {
    this.time = bytes.getFloat64(0, true);
    this.scene = bytes.getUint32(8, true);
    this.ticks = bytes.getUint32(12, true);
    this.speed = bytes.getFloat32(16, true);
    this.playing = bytes.getUint32(20, true) !== 0;
    this.count = bytes.getUint32(24, true);
  }
  private at(i: number): number {
    return Frame.head + Frame.each * i;
  }
  position(i: number): Point {
    const at = this.at(i);
    return [this.bytes.getFloat32(at, true), this.bytes.getFloat32(at + 4, true), this.bytes.getFloat32(at + 8, true)];
  }
  heading(i: number): number {
    return this.bytes.getInt16(this.at(i) + 12, true) / 10000;
  }
  speedOf(i: number): number {
    return this.bytes.getUint16(this.at(i) + 14, true) / 1000;
  }
  alive(i: number): boolean {
    return (this.bytes.getUint8(this.at(i) + 18) & 1) !== 0;
  }
  suspended(i: number): boolean {
    return (this.bytes.getUint8(this.at(i) + 18) & 4) !== 0;
  }
}

export function floats(base64: string): Float32Array {
  const text = atob(base64);
  const bytes = new Uint8Array(text.length);
  for (let i = 0; i < text.length; ++i) bytes[i] = text.charCodeAt(i);
  return new Float32Array(bytes.buffer, 0, bytes.length >> 2);
}

export function octets(base64: string): Uint8Array {
  const text = atob(base64);
  return Uint8Array.from(text, (sign) => sign.charCodeAt(0));
}
