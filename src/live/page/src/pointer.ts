// Tools: choosing, sending, putting up barriers, moving things.

import type { Labels } from './labels';
import type { Link } from './link';
import type { Point } from './messages';
import type { Picture } from './picture';
import type { State } from './state';

const reachPixels = 12; // within which something is met
const dragPixels = 5; // before it is a drag
const within = 0.05; // metres from where is clicked that count as there
const everyMs = 60; // from one place of a held pointer to the next

interface Picked {
  npc: string | null;
  what: string;
  at: Point;
  off: number;
  why: string;
}

type Grip =
  | { kind: 'box'; x: number; y: number; add: boolean }
  | { kind: 'send'; who: string[] }
  | { kind: 'barrier'; from: Point }
  | { kind: 'move-barrier'; name: string; off: [number, number] }
  | { kind: 'move'; path: string[]; z: number };

export class Pointer {
  private grip: Grip | null = null;
  private last = 0;
  private waiting: (() => Promise<void>) | null = null; // may be left out for a later one
  private certain: (() => Promise<void>)[] = []; // may not
  private presses = 0;
  private pressed = false;
  private busy = false;

  constructor(
    private readonly state: State,
    private readonly link: Link,
    private readonly picture: Picture,
    private readonly labels: Labels,
    private readonly hint: (text: string, bad?: boolean) => void,
  ) {
    const { canvas } = picture;
    canvas.addEventListener('pointerdown', (event) => {
      if (event.button !== 0) return;
      canvas.setPointerCapture(event.pointerId);
      void this.down(...this.place(event), event.shiftKey || event.ctrlKey);
    });
    canvas.addEventListener('pointermove', (event) => this.move(...this.place(event)));
    canvas.addEventListener('pointerup', (event) => {
      if (event.button === 0) this.up(...this.place(event));
    });
    canvas.addEventListener('pointercancel', () => this.drop());
    canvas.addEventListener('contextmenu', (event) => event.preventDefault());
  }

  private place(event: PointerEvent): [number, number] {
    const box = this.picture.canvas.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
  }

  /** Sends one thing after another, and of those that wait only the latest; what a press ends with is sent always. */
  private async soon(what: () => Promise<void>, always = false): Promise<void> {
    if (always) this.certain.push(what);
    this.waiting = always ? null : what;
    if (this.busy) return;
    this.busy = true;
    for (;;) {
      const next = this.certain.shift() ?? this.waiting;
      if (!next) break;
      if (next === this.waiting) this.waiting = null;
      try {
        await next();
      } catch (error) {
        this.hint(error instanceof Error ? error.message : String(error), true);
      }
    }
    this.busy = false;
  }

  private async down(x: number, y: number, more: boolean): Promise<void> {
    const { tool } = this.state;
    ++this.presses;
    this.pressed = true;
    const npc = this.npcAt(x, y);
    if ((tool === 'select' || tool === 'send') && npc) return this.choose(npc, more);
    if (tool === 'select') this.grip = { kind: 'box', x, y, add: more };
    if (tool === 'send') this.beginSending(x, y, more);
    if (tool === 'barrier') this.gripBarrier(x, y);
    if (tool === 'move') this.gripThing(x, y);
  }

  /** The character nearest to a pixel, of those that are seen there. */
  private npcAt(x: number, y: number): string | null {
    const { frame, scene } = this.state;
    if (!frame || !scene) return null;
    let best: string | null = null;
    let min = reachPixels;
    for (let i = 0; i < frame.count; ++i) {
      if (!frame.alive(i)) continue;
      const [px, py, pz] = frame.position(i);
      for (const height of this.picture.fromAbove ? [0] : [0, scene.npcs[i].height / 2, scene.npcs[i].height]) {
        const at = this.picture.pixel([px, py, pz + height]);
        const off = at ? Math.hypot(at[0] - x, at[1] - y) : Infinity;
        if (off < min) [best, min] = [scene.npcs[i].name, off];
      }
    }
    return best;
  }

  private choose(name: string, more: boolean): void {
    const { selected } = this.state;
    if (!more) this.state.select([name]);
    else this.state.select(selected.includes(name) ? selected.filter((other) => other !== name) : [...selected, name]);
  }

  private beginSending(x: number, y: number, then: boolean): void {
    if (this.state.selected.length === 0) return this.hint('Select a character first: click it, or its name on the left.');
    const who = [...this.state.selected];
    if (!then) this.grip = { kind: 'send', who };
    void this.soon(() => this.send(who, x, y, then), then);
  }

  private async send(who: string[], x: number, y: number, then: boolean): Promise<void> {
    const { from, direction } = this.picture.ray(x, y);
    const click = { who, ray: [from, direction], within, ...(then ? { then } : { hold: true }) };
    const answer = await this.link.send<{ done: boolean; at: Point; off: number; why: string }>({ click });
    this.state.clicked = answer.done ? { at: answer.at, good: answer.off < 0.5, since: performance.now() } : null;
    if (!answer.done || answer.off >= 0.5) this.hint(answer.why, true);
    else this.hint(then ? 'Place appended.' : '');
    this.picture.touch();
  }

  private gripBarrier(x: number, y: number): void {
    const scene = this.state.scene;
    if (!scene?.barriers) return this.hint('Barriers need a ground of tiles, a plan or a level; this one is open.', true);
    const press = this.presses;
    void this.soon(async () => {
      const at = await this.groundAt(x, y);
      if (!at) return;
      const met = this.state.ground?.barriers.find((barrier) => inside(barrier, at));
      this.state.barrier = met?.name ?? null;
      // Released before the answer came: it is chosen, but not dragged.
      if (this.pressed && press === this.presses)
        this.grip = met
          ? { kind: 'move-barrier', name: met.name, off: [middle(met)[0] - at[0], middle(met)[1] - at[1]] }
          : { kind: 'barrier', from: at };
      this.state.tell('view');
      if (met) this.hint(`${met.name}: drag it, or press Delete to remove it.`);
    });
  }

  private async groundAt(x: number, y: number): Promise<Point | null> {
    const { from, direction } = this.picture.ray(x, y);
    const picked = await this.link.send<Picked>({ pick: { ray: [from, direction] } });
    if (picked.what === 'sky') this.hint(picked.why, true);
    return picked.what === 'sky' ? null : picked.at;
  }

  private gripThing(x: number, y: number): void {
    let min = reachPixels;
    const consider = (at: Point, path: string[]): void => {
      const seen = this.picture.pixel(at);
      const off = seen ? Math.hypot(seen[0] - x, seen[1] - y) : Infinity;
      if (off < min) {
        min = off;
        this.grip = { kind: 'move', path, z: at[2] };
      }
    };
    for (const place of this.state.scene?.places ?? []) consider(place.at, ['place', place.name]);
    for (const beat of this.state.scene?.beats ?? []) for (const point of beat.points) if (point.path.length) consider(point.at, point.path);
    if (!this.grip) this.hint('Drag a place or a waypoint.');
  }

  private move(x: number, y: number): void {
    const { grip } = this;
    if (!grip) return;
    if (grip.kind === 'box') {
      this.labels.box = { x0: grip.x, y0: grip.y, x1: x, y1: y };
      return this.picture.touch();
    }
    if (grip.kind === 'barrier') {
      const a = this.picture.pixel(grip.from);
      if (a) this.labels.box = { x0: a[0], y0: a[1], x1: x, y1: y };
      this.picture.touch();
    }
    const now = performance.now();
    if (now - this.last < everyMs) return;
    this.last = now;
    if (grip.kind === 'send') void this.soon(() => this.send(grip.who, x, y, false));
    if (grip.kind === 'move-barrier' || grip.kind === 'move') void this.soon(() => this.drag(grip, x, y));
  }

  private async drag(grip: Grip, x: number, y: number): Promise<void> {
    if (grip.kind === 'move-barrier') {
      const bottom = this.state.ground?.barriers.find((barrier) => barrier.name === grip.name)?.bottom ?? 0;
      const at = this.picture.atHeight(x, y, bottom);
      if (at) await this.link.send({ move: { barrier: grip.name, to: [at[0] + grip.off[0], at[1] + grip.off[1]] } });
    }
    if (grip.kind === 'move') {
      const at = this.picture.atHeight(x, y, grip.z);
      const value = at && [round(at[0]), round(at[1]), ...(grip.z !== 0 ? [round(grip.z)] : [])];
      if (value) await this.link.send({ set: { path: grip.path, value } });
    }
  }

  private up(x: number, y: number): void {
    const { grip } = this;
    this.grip = null;
    this.pressed = false;
    if (!grip) return;
    if (grip.kind === 'box') this.chooseBox(grip, x, y);
    if (grip.kind === 'send') {
      void this.soon(async () => {
        await this.send(grip.who, x, y, false);
        await this.link.send({ release: grip.who });
      }, true);
    }
    if (grip.kind === 'barrier') void this.soon(() => this.putBarrier(grip.from, x, y), true);
    if (grip.kind === 'move-barrier' || grip.kind === 'move') void this.soon(() => this.drag(grip, x, y), true);
    this.labels.box = null;
    this.picture.touch();
  }

  private drop(): void {
    const { grip } = this;
    if (grip?.kind === 'send') void this.soon(async () => void (await this.link.send({ release: grip.who })), true);
    this.grip = null;
    this.pressed = false;
    this.labels.box = null;
  }

  private chooseBox(grip: { x: number; y: number; add: boolean }, x: number, y: number): void {
    const { frame, scene } = this.state;
    if (!frame || !scene) return;
    const names: string[] = grip.add ? [...this.state.selected] : [];
    if (Math.hypot(x - grip.x, y - grip.y) > dragPixels)
      for (let i = 0; i < frame.count; ++i) {
        const at = frame.alive(i) ? this.picture.pixel(frame.position(i)) : null;
        if (!at || at[0] < Math.min(x, grip.x) || at[0] > Math.max(x, grip.x)) continue;
        if (at[1] >= Math.min(y, grip.y) && at[1] <= Math.max(y, grip.y)) names.push(scene.npcs[i].name);
      }
    this.state.select([...new Set(names)]);
  }

  private async putBarrier(from: Point, x: number, y: number): Promise<void> {
    const to = this.picture.atHeight(x, y, from[2]);
    if (!to) return;
    const size = [Math.abs(to[0] - from[0]), Math.abs(to[1] - from[1])];
    if (Math.min(...size) < 0.05) return this.hint('Drag from corner to corner to add a barrier.');
    const taken = new Set(this.state.ground?.barriers.map((barrier) => barrier.name));
    let number = 1;
    while (taken.has(`barrier ${number}`)) ++number;
    const barrier = `barrier ${number}`;
    const box = [(from[0] + to[0]) / 2, (from[1] + to[1]) / 2, ...size].map(round);
    const heights = this.state.scene?.levels ? { heights: [round(from[2] - 0.1), round(from[2] + 1.5)] } : {};
    await this.link.send({ put: { barrier, box, ...heights } });
    this.state.barrier = barrier;
    this.state.tell('view');
    this.hint(`${barrier} stands; drag it, or press Delete to remove it.`);
  }

  async removeBarrier(): Promise<void> {
    const { barrier } = this.state;
    if (!barrier) return;
    await this.soon(async () => {
      await this.link.send({ take_away: barrier });
      this.state.barrier = null;
      this.hint(`${barrier} is gone.`);
    });
  }
}

function round(metres: number): number {
  return Math.round(metres * 100) / 100;
}

function middle(barrier: { corners: [number, number][] }): [number, number] {
  const xs = barrier.corners.map((corner) => corner[0]);
  const ys = barrier.corners.map((corner) => corner[1]);
  return [(Math.min(...xs) + Math.max(...xs)) / 2, (Math.min(...ys) + Math.max(...ys)) / 2];
}

/** Corners run counter-clockwise. */
function inside(barrier: { corners: [number, number][]; radius: number }, at: Point): boolean {
  const { corners, radius } = barrier;
  if (corners.length === 1) return Math.hypot(at[0] - corners[0][0], at[1] - corners[0][1]) <= radius;
  return corners.every(([x, y], i) => {
    const [nx, ny] = corners[(i + 1) % corners.length];
    return (nx - x) * (at[1] - y) - (ny - y) * (at[0] - x) >= 0;
  });
}
