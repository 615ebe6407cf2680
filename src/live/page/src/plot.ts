// A value over the last seconds, of one character or of two.

import { type Look, currentLook } from './look';

export interface Curve {
  samples: { t: number; value: number | null }[];
  other: boolean;
}

export function plot(canvas: HTMLCanvasElement, title: string, curves: Curve[]): void {
  const look: Look = currentLook();
  const { width, height } = canvas.getBoundingClientRect();
  if (width === 0) return;
  const ratio = Math.min(2, devicePixelRatio);
  canvas.width = width * ratio;
  canvas.height = height * ratio;
  const pen = canvas.getContext('2d') as CanvasRenderingContext2D;
  pen.scale(ratio, ratio);
  const last = Math.max(20, ...curves.map((curve) => curve.samples[curve.samples.length - 1]?.t ?? 0));
  const max = niceAbove(1.05 * Math.max(0.1, ...curves.flatMap((curve) => curve.samples.map((sample) => sample.value ?? 0))));
  const [left, top, right, bottom] = [30, 16, width - 6, height - 6];
  pen.strokeStyle = look.faint;
  pen.fillStyle = look.ink;
  pen.font = '13px "Linux Libertine O", "Linux Libertine", Georgia, serif';
  pen.fillText(title, left, 11);
  pen.strokeRect(left, top, right - left, bottom - top);
  pen.textAlign = 'right';
  pen.fillText(String(max), left - 4, top + 6);
  pen.fillText('0', left - 4, bottom);
  pen.textAlign = 'left';
  for (const curve of curves) {
    pen.strokeStyle = curve.other ? look.other : look.chosen;
    pen.setLineDash(curve.other ? [5, 3] : []);
    pen.lineWidth = 1.6;
    pen.beginPath();
    let drawing = false;
    for (const sample of curve.samples) {
      if (sample.value === null) {
        drawing = false;
        continue;
      }
      const x = right - ((last - sample.t) / 20) * (right - left);
      const y = bottom - (Math.min(sample.value, max) / max) * (bottom - top);
      if (x < left) continue;
      if (drawing) pen.lineTo(x, y);
      else pen.moveTo(x, y);
      drawing = true;
    }
    pen.stroke();
    pen.setLineDash([]);
  }
}

/** The next of 1, 2, 5 times a power of ten. */
export function niceAbove(value: number): number {
  const power = 10 ** Math.floor(Math.log10(value));
  return [1, 2, 5, 10].map((step) => step * power).find((step) => step >= value) ?? value;
}
