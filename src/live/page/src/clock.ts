// The clock: play, pause, one tick, how fast, and from the beginning.

import { button, el } from './elements';
import type { Link } from './link';
import type { State } from './state';

const speeds = [0.1, 0.25, 0.5, 1, 2, 4, 8];

export class Clock {
  private readonly play = button('Pause', () => this.toggle());
  private readonly time = el('output', { class: 'time' });
  private readonly speed = el('select', { 'aria-label': 'How fast' }) as HTMLSelectElement;
  private readonly line = el('span', { class: 'quiet', id: 'line' });

  constructor(
    private readonly state: State,
    private readonly link: Link,
    private readonly hint: (text: string, bad?: boolean) => void,
  ) {
    const root = document.getElementById('clock') as HTMLElement;
    for (const value of speeds) this.speed.append(el('option', { value: String(value) }, `${value} ×`));
    this.speed.value = '1';
    this.speed.addEventListener('change', () => this.send({ speed: Number(this.speed.value) }));
    this.play.title = 'Space';
    const tick = button('One tick', () => this.tick());
    tick.title = 'the full stop key';
    const again = button('Restart', () => this.restart());
    again.title = 'R: restart with the same seed';
    root.append(this.play, tick, this.speed, again, this.time, this.line);
    state.on(['frame'], () => this.show());
    state.on(['journal'], () => {
      const last = state.journal[state.journal.length - 1];
      this.line.textContent = last ? `${last.t.toFixed(1)} s: ${last.text}` : '';
    });
  }

  toggle(): void {
    this.send({ play: !(this.state.frame?.playing ?? true) });
  }
  tick(): void {
    this.send({ step: 1 });
  }
  restart(): void {
    this.send({ restart: true });
  }
  faster(by: number): void {
    const now = speeds.findIndex((speed) => speed >= (this.state.frame?.speed ?? 1) - 1e-6);
    this.send({ speed: speeds[Math.min(speeds.length - 1, Math.max(0, now + by))] });
  }

  private show(): void {
    const { frame, scene } = this.state;
    if (!frame || !scene) return;
    this.play.textContent = frame.playing ? 'Pause' : 'Play';
    const minutes = Math.floor(frame.time / 60);
    this.time.textContent = `${String(minutes).padStart(2, '0')}:${(frame.time % 60).toFixed(1).padStart(4, '0')}`;
    this.time.title = `tick ${frame.ticks}, ${scene.rate} a second`;
    const speed = speeds.find((value) => Math.abs(value - frame.speed) < 1e-3);
    if (speed && document.activeElement !== this.speed) this.speed.value = String(speed);
  }

  private send(command: Record<string, unknown>): void {
    this.link.send(command).catch((error: Error) => this.hint(error.message, true));
  }
}
