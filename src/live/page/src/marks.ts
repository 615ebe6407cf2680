// What is drawn over the ground: beats, places, ways, circles, wanted velocities, neighbours, searches and fields.

import * as three from 'three';

import type { Look } from './look';
import type { Point } from './messages';
import type { State } from './state';

interface Layers {
  places: boolean;
  waypoints: boolean;
  routes: boolean;
  circles: boolean;
  wanted: boolean;
  neighbours: boolean;
}

const lifted = 0.07; // metres above what they lie on

export class Marks {
  readonly group = new three.Group();
  private readonly beats = new Lines(false);
  private readonly ways = new Lines(true);
  private readonly circles = new Lines(false);
  private readonly wanted = new Lines(false);
  private readonly neighbours = new Lines(true);
  private readonly field = new Lines(false);
  private readonly dots = new Dots();
  private readonly cells = new three.Mesh(
    new three.BufferGeometry(),
    new three.MeshBasicMaterial({ transparent: true, opacity: 0.35, side: three.DoubleSide, depthWrite: false }),
  );

  constructor(
    private readonly state: State,
    private readonly layers: Layers,
  ) {
    for (const part of [this.beats, this.ways, this.circles, this.wanted, this.neighbours, this.field]) this.group.add(part.lines);
    this.group.add(this.dots.points, this.cells);
  }

  private drawBeats(look: Look): void {
    this.beats.clear();
    const { scene } = this.state;
    if (scene && this.layers.waypoints)
      for (const beat of scene.beats) {
        const chosen = this.state.selected.includes(beat.npc);
        const line = beat.line.length > 0 ? beat.line : beat.points.map((point) => point.at);
        if (line.length > 1) this.beats.add([...line, line[0]], chosen ? look.chosen : look.faint);
      }
    this.beats.done();
  }

  update(look: Look): void {
    for (const part of [this.ways, this.circles, this.wanted, this.neighbours, this.field]) part.clear();
    this.dots.clear();
    const { scene } = this.state;
    if (!scene) return;
    this.drawBeats(look);
    if (this.layers.waypoints)
      for (const beat of scene.beats) for (const point of beat.points) this.dots.add(point.at, look.ink);
    if (this.layers.places) for (const place of scene.places) this.dots.add(place.at, look.other);
    if (this.layers.routes) for (const route of this.state.routes) this.way(route, look.faint, look);
    for (const name of this.state.inspected()) this.closely(name, look);
    if (this.state.clicked && performance.now() - this.state.clicked.since < 1500) {
      const { at, good } = this.state.clicked;
      this.circles.circle(at, 0.25, good ? look.good : look.chosen);
      this.circles.circle(at, 0.4, good ? look.good : look.chosen);
    }
    this.showOverlay(look);
    for (const part of [this.ways, this.circles, this.wanted, this.neighbours, this.field]) part.done();
    this.dots.done();
  }

  private closely(name: string, look: Look): void {
    const about = this.state.closely.get(name);
    const i = this.state.index(name);
    const { frame } = this.state;
    if (!about || !frame || i < 0 || i >= frame.count || !frame.alive(i)) return;
    const ink = name === this.state.pinned ? look.other : look.chosen;
    const at = frame.position(i);
    if (about.bends.length > 1) this.way([at, ...about.bends.slice(1)], ink, look);
    if (this.layers.circles && about.goal) {
      const slowing = about.gait.slowing_distance;
      this.circles.circle(about.goal, Math.max(0.02, about.within), ink);
      if (slowing > 0) this.circles.circle(about.goal, about.within + slowing, look.faint);
      this.dots.add(about.goal, ink);
    }
    if (this.layers.wanted) {
      this.wanted.arrow(at, about.wanted, look.good);
      const speed = frame.speedOf(i);
      this.wanted.arrow(at, [speed * Math.cos(frame.heading(i)), speed * Math.sin(frame.heading(i))], look.ink);
    }
    if (this.layers.neighbours)
      for (const other of about.neighbours) this.neighbours.add([at, [at[0] + other.off[0], at[1] + other.off[1], at[2]]], look.other);
  }

  private way(bends: Point[], ink: string, look: Look): void {
    this.ways.add(bends, ink);
    for (const bend of bends.slice(1, -1)) this.dots.add(bend, look.ink);
  }

  private showOverlay(look: Look): void {
    const { overlay } = this.state;
    const corners: number[] = [];
    for (const cell of overlay?.cells ?? [])
      for (let i = 2; i < cell.length; ++i)
        for (const [x, y, z] of [cell[0], cell[i - 1], cell[i]]) corners.push(x, y, z + 0.5 * lifted);
    this.cells.geometry.setAttribute('position', new three.Float32BufferAttribute(corners, 3));
    (this.cells.material as three.MeshBasicMaterial).color.set(look.other);
    this.cells.visible = corners.length > 0;
    if (!overlay) return;
    if (overlay.bends.length > 1) this.way(overlay.bends, look.other, look);
    const half = 0.4 * overlay.size;
    for (const [x, y, dx, dy] of overlay.arrows)
      this.field.arrow([x - dx * half, y - dy * half, 0], [2 * half * dx, 2 * half * dy], look.other);
  }
}

/** Many lines that are drawn as one thing. */
class Lines {
  readonly lines: three.LineSegments;
  private points: number[] = [];
  private colors: number[] = [];
  private readonly color = new three.Color();

  constructor(private readonly dashed: boolean) {
    const material = dashed
      ? new three.LineDashedMaterial({ vertexColors: true, dashSize: 0.3, gapSize: 0.18 })
      : new three.LineBasicMaterial({ vertexColors: true });
    this.lines = new three.LineSegments(new three.BufferGeometry(), material);
    this.lines.frustumCulled = false;
  }
  clear(): void {
    this.points = [];
    this.colors = [];
  }
  add(line: Point[], ink: string): void {
    this.color.set(ink);
    for (let i = 1; i < line.length; ++i)
      for (const [x, y, z] of [line[i - 1], line[i]]) {
        this.points.push(x, y, z + lifted);
        this.colors.push(this.color.r, this.color.g, this.color.b);
      }
  }
  circle([x, y, z]: Point, radius: number, ink: string): void {
    const line: Point[] = [];
    for (let i = 0; i <= 40; ++i) line.push([x + radius * Math.cos((i * Math.PI) / 20), y + radius * Math.sin((i * Math.PI) / 20), z]);
    this.add(line, ink);
  }
  arrow([x, y, z]: Point, [dx, dy]: [number, number], ink: string): void {
    if (Math.hypot(dx, dy) < 1e-3) return;
    const end: Point = [x + dx, y + dy, z];
    const back = (turn: number): Point => [end[0] - 0.25 * (dx - turn * dy), end[1] - 0.25 * (dy + turn * dx), z];
    this.add([[x, y, z], end, back(0.5)], ink);
    this.add([end, back(-0.5)], ink);
  }
  done(): void {
    const geometry = this.lines.geometry;
    geometry.setAttribute('position', new three.Float32BufferAttribute(this.points, 3));
    geometry.setAttribute('color', new three.Float32BufferAttribute(this.colors, 3));
    if (this.dashed) this.lines.computeLineDistances();
    this.lines.visible = this.points.length > 0;
  }
}

/** Many dots, of the same size on the page however far away. */
class Dots {
  readonly points: three.Points;
  private places: number[] = [];
  private colors: number[] = [];
  private readonly color = new three.Color();

  constructor() {
    this.points = new three.Points(
      new three.BufferGeometry(),
      new three.PointsMaterial({ size: 6, sizeAttenuation: false, vertexColors: true }),
    );
    this.points.frustumCulled = false;
  }
  clear(): void {
    this.places = [];
    this.colors = [];
  }
  add([x, y, z]: Point, ink: string): void {
    this.places.push(x, y, z + lifted);
    this.color.set(ink);
    this.colors.push(this.color.r, this.color.g, this.color.b);
  }
  done(): void {
    this.points.geometry.setAttribute('position', new three.Float32BufferAttribute(this.places, 3));
    this.points.geometry.setAttribute('color', new three.Float32BufferAttribute(this.colors, 3));
    this.points.visible = this.places.length > 0;
  }
}
