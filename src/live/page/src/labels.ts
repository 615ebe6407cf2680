// Writing over the picture: names, a scale bar, the frame of a box that is dragged.

import type { Picture } from './picture';
import type { State } from './state';

const mostFlags = 60; // names at once; those chosen come first

export class Labels {
  box: { x0: number; y0: number; x1: number; y1: number } | null = null;
  private readonly pen: CanvasRenderingContext2D;

  constructor(
    private readonly state: State,
    private readonly canvas: HTMLCanvasElement,
    private readonly layers: { names: boolean; places: boolean },
  ) {
    this.pen = canvas.getContext('2d') as CanvasRenderingContext2D;
  }

  draw(picture: Picture): void {
    const { width, height } = (this.canvas.parentElement as Element).getBoundingClientRect();
    const ratio = Math.min(2, devicePixelRatio);
    if (this.canvas.width !== Math.round(width * ratio) || this.canvas.height !== Math.round(height * ratio)) {
      this.canvas.width = Math.round(width * ratio);
      this.canvas.height = Math.round(height * ratio);
    }
    this.pen.setTransform(ratio, 0, 0, ratio, 0, 0);
    this.pen.clearRect(0, 0, width, height);
    this.taken = [];
    this.names(picture);
    if (this.layers.places) this.places(picture);
    this.scaleBar(picture, height);
    this.dragged(picture);
  }

  private taken: [number, number, number, number][] = [];

  /** Writes where nothing is written yet, on one of four sides; not at all where there is no room. */
  private write(picture: Picture, text: string, x: number, y: number, ink: string, flag: boolean): void {
    this.pen.font = `${flag ? '600 ' : 'italic '}14px "Linux Libertine O", "Linux Libertine", Georgia, serif`;
    const width = this.pen.measureText(text).width + 8;
    for (const [dx, dy] of [
      [10, -14],
      [-width - 10, -14],
      [10, 12],
      [-width - 10, 12],
    ]) {
      const box: [number, number, number, number] = [x + dx, y + dy - 8, x + dx + width, y + dy + 8];
      if (this.taken.some((other) => box[0] < other[2] && other[0] < box[2] && box[1] < other[3] && other[1] < box[3])) continue;
      this.taken.push(box);
      if (flag) {
        this.pen.fillStyle = picture.look.light;
        this.pen.globalAlpha = 0.85;
        this.pen.fillRect(box[0], box[1], width, 16);
        this.pen.globalAlpha = 1;
        this.pen.strokeStyle = ink;
        this.pen.lineWidth = 1;
        this.pen.strokeRect(Math.round(box[0]) + 0.5, Math.round(box[1]) + 0.5, Math.round(width), 16);
      }
      this.pen.fillStyle = ink;
      this.pen.textBaseline = 'middle';
      this.pen.fillText(text, box[0] + 4, y + dy + 0.5);
      return;
    }
  }

  private names(picture: Picture): void {
    const { scene, frame } = this.state;
    if (!scene || !frame || frame.count !== scene.npcs.length) return;
    const chosen = [...this.state.selected, ...(this.state.pinned ? [this.state.pinned] : [])];
    const all = this.layers.names && frame.count <= mostFlags ? scene.npcs.map((one) => one.name) : [];
    for (const name of new Set([...chosen.slice(0, mostFlags), ...all])) {
      const i = this.state.index(name);
      if (i < 0 || !frame.alive(i)) continue;
      const at = picture.pixel(frame.position(i));
      if (!at) continue;
      const ink = name === this.state.pinned ? picture.look.other : chosen.includes(name) ? picture.look.chosen : picture.look.ink;
      this.write(picture, frame.suspended(i) ? `${name} (suspended)` : name, at[0], at[1], ink, true);
    }
  }

  private places(picture: Picture): void {
    for (const place of this.state.scene?.places ?? []) {
      const at = picture.pixel(place.at);
      if (at) this.write(picture, place.name, at[0], at[1], picture.look.other, false);
    }
  }

  private scaleBar(picture: Picture, height: number): void {
    if (!picture.fromAbove) return;
    const metre = 1 / picture.metresPerPixel();
    const power = 10 ** Math.floor(Math.log10(120 / metre));
    const metres = [5, 2, 1].map((step) => step * power).find((length) => length * metre <= 120) ?? power;
    const [left, top, long] = [14, height - 16, metres * metre];
    this.pen.strokeStyle = picture.look.ink;
    this.pen.lineWidth = 1.5;
    this.pen.beginPath();
    this.pen.moveTo(left, top - 5);
    this.pen.lineTo(left, top);
    this.pen.lineTo(left + long, top);
    this.pen.lineTo(left + long, top - 5);
    this.pen.stroke();
    this.pen.font = '14px "Linux Libertine O", "Linux Libertine", Georgia, serif';
    this.pen.fillStyle = picture.look.ink;
    this.pen.fillText(`${metres} m`, left + long + 6, top - 4);
  }

  private dragged(picture: Picture): void {
    if (!this.box) return;
    this.pen.strokeStyle = picture.look.chosen;
    this.pen.lineWidth = 1.5;
    this.pen.setLineDash([6, 4]);
    this.pen.strokeRect(this.box.x0, this.box.y0, this.box.x1 - this.box.x0, this.box.y1 - this.box.y0);
    this.pen.setLineDash([]);
  }
}
