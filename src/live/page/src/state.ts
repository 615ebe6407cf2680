// What the page knows and what is chosen on it; whoever shows some of it listens.

import type { CloseLook, Frame, Ground, JournalLine, Level, Point, Scene } from './messages';

export type Tool = 'select' | 'send' | 'barrier' | 'move';
type What = 'scene' | 'ground' | 'frame' | 'closely' | 'journal' | 'selection' | 'tool' | 'view';

export interface Sample {
  t: number;
  speed: number;
  left: number | null;
}

const plotSeconds = 20;

export class State {
  scene: Scene | null = null;
  level: Level | null = null;
  ground: Ground | null = null;
  frame: Frame | null = null;
  readonly closely = new Map<string, CloseLook>();
  routes: Point[][] = [];
  journal: JournalLine[] = [];
  readonly history = new Map<string, Sample[]>();
  selected: string[] = [];
  /** The other of two that are compared; with the first of the selected. */
  pinned: string | null = null;
  barrier: string | null = null;
  tool: Tool = 'send';
  /** Of a search or a field, until another one is asked for. */
  overlay: { cells: Point[][]; bends: Point[]; arrows: [number, number, number, number][]; size: number } | null = null;
  followed: string | null = null;
  clicked: { at: Point; good: boolean; since: number } | null = null;
  private readonly listeners = new Map<What, (() => void)[]>();

  on(whats: What[], then: () => void): void {
    for (const what of whats) this.listeners.set(what, [...(this.listeners.get(what) ?? []), then]);
  }
  tell(what: What): void {
    for (const then of this.listeners.get(what) ?? []) then();
  }

  index(name: string): number {
    return this.scene?.npcs.findIndex((one) => one.name === name) ?? -1;
  }
  select(names: string[]): void {
    this.selected = names;
    if (this.pinned && names.includes(this.pinned) && names.length < 2) this.pinned = null;
    this.tell('selection');
  }
  /** Those that are looked at closely: the one inspected, and the one it is compared with. */
  inspected(): string[] {
    const first = this.selected.find((name) => name !== this.pinned);
    return [this.pinned, first].filter((name): name is string => !!name);
  }
  remember(look: CloseLook, t: number): void {
    this.closely.set(look.name, look);
    const samples = this.history.get(look.name) ?? [];
    if (samples.length > 0 && samples[samples.length - 1].t > t) samples.length = 0; // it was restarted
    samples.push({ t, speed: look.speed, left: look.left });
    while (samples.length > 0 && samples[0].t < t - plotSeconds) samples.shift();
    this.history.set(look.name, samples);
  }
  note(lines: JournalLine[]): void {
    if (lines.length > 0 && this.journal.length > 0 && lines[0].t < this.journal[this.journal.length - 1].t - 0.5)
      this.journal = [];
    this.journal = [...this.journal, ...lines].slice(-2000);
    this.tell('journal');
  }
}
