// The inspector: what the chosen one does and why, what has become of its orders, its speed and its way as plots, and
// sliders for how it is. With a second one pinned, both side by side.

import { button, el, foldable, section } from './elements';
import type { Key, Link, Schema } from './link';
import type { NpcInfo, CloseLook } from './messages';
import { niceAbove, plot } from './plot';
import type { Sample, State } from './state';

const everyMs = 120; // from one value of a slider that is dragged to the next

/** The stance, with what is left of it. */
function stance(look: CloseLook): string {
  const words = look.stance.replace('_', ' ');
  if (look.turn_deg !== 0) return `${words}, ${Math.abs(look.turn_deg).toFixed(0)}° left`;
  return look.stop > 0 ? `${words}, ${look.stop.toFixed(2)} m left` : words;
}

export class Inspector {
  private schema: Schema | null = null;
  private built = '';
  private readonly live: (() => void)[] = [];

  constructor(
    private readonly state: State,
    private readonly link: Link,
    private readonly root: HTMLElement,
    private readonly hint: (text: string, bad?: boolean) => void,
  ) {
    state.on(['selection', 'scene'], () => this.build());
    state.on(['closely', 'journal'], () => this.refresh());
  }

  async start(): Promise<void> {
    this.schema = await this.link.schema();
    this.build();
  }

  /** The parts that stay while the same are looked at; what changes all the time is refreshed in place. */
  private build(): void {
    const names = this.state.inspected();
    const steps = names.map((name) => JSON.stringify(this.state.scene?.npcs[this.state.index(name)]?.do ?? []).replace(/[\d.]+/g, '#'));
    const wanted = JSON.stringify([names, this.state.selected.length, steps, this.schema !== null, this.state.pinned]);
    if (wanted === this.built) return;
    this.built = wanted;
    this.live.length = 0;
    this.root.replaceChildren();
    this.root.classList.toggle('two', names.length === 2);
    if (names.length === 0) {
      this.root.append(this.introduction());
      return;
    }
    this.root.append(this.heads(names), this.nowPart(names), this.plots(names), this.sliders('Gait', 'gait', names), this.sliders('Body', 'body', names));
    if (names.length === 1) this.root.append(this.orderOptions(names[0]));
    this.root.append(this.journalPart(names));
    this.refresh();
  }

  private introduction(): HTMLElement {
    const part = section('No selection');
    for (const text of [
      'Click a character, or a name on the left, to see its order and why, and to tune it.',
      'With Send, click the ground to send the selected characters; hold the button to make them follow the pointer; Shift appends a place.',
      'With Barrier, drag a box on the ground; with Move, drag places and waypoints.',
    ])
      part.append(el('p', { class: 'quiet' }, text));
    return part;
  }

  private heads(names: string[]): HTMLElement {
    const head = el('div', { class: 'columns heads' });
    for (const name of names) {
      const box = el('div', { class: name === this.state.pinned ? 'head other' : 'head' });
      box.append(el('h2', {}, name));
      const buttons = el('div', { class: 'buttons' });
      const suspend = button('Suspend', () => void this.command({ [this.suspended(name) ? 'resume' : 'suspend']: name }));
      this.live.push(() => (suspend.textContent = this.suspended(name) ? 'Resume' : 'Suspend'));
      const follow = button('Follow', () => {
        this.state.followed = this.state.followed === name ? null : name;
        this.state.tell('view');
      });
      this.live.push(() => follow.setAttribute('aria-pressed', String(this.state.followed === name)));
      buttons.append(suspend, follow, this.pinButton(name));
      box.append(buttons);
      head.append(box);
    }
    return head;
  }

  private pinButton(name: string): HTMLElement {
    const pinned = this.state.pinned === name;
    const pin = button(pinned ? 'Unpin' : 'Compare', () => {
      this.state.pinned = pinned ? null : name;
      if (!pinned) this.hint(`${name} is pinned; select another character to compare.`);
      this.state.select(pinned ? this.state.selected : this.state.selected.filter((other) => other !== name));
    });
    pin.title = pinned ? 'Stop comparing' : 'Pin it, and compare it with the next selection';
    return pin;
  }

  private suspended(name: string): boolean {
    const i = this.state.index(name);
    return i >= 0 && (this.state.frame?.suspended(i) ?? false);
  }

  private nowPart(names: string[]): HTMLElement {
    const part = section('Now');
    const row = (label: string, text: (look: CloseLook) => string, wide = false): void => {
      const line = el('div', { class: wide ? 'row wide' : 'row' });
      line.append(el('span', { class: 'label' }, label));
      for (const name of names) {
        const value = el('output', {});
        this.live.push(() => {
          const look = this.state.closely.get(name);
          value.textContent = look ? text(look) : '…';
        });
        line.append(value);
      }
      part.append(line);
    };
    row('activity', (look) => look.doing, true);
    row('order', (look) => look.order || 'none');
    row('target', (look) => look.target || '–');
    row('stance', stance);
    row('speed', (look) => `${look.speed.toFixed(2)} m/s`);
    row('distance left', (look) => (look.left === null ? '–' : `${look.left.toFixed(1)} m`));
    row('walked', (look) => `${look.walked.toFixed(1)} m`);
    row('detour', (look) => (look.scorecard?.detour ? `${look.scorecard.detour.toFixed(2)} ×` : '–'));
    row('feet slide', (look) => (look.scorecard ? `${(100 * look.scorecard.sliding).toFixed(1)} %` : '–'));
    row('lost in bends', (look) => (look.scorecard ? `${(100 * look.scorecard.bend_slowdown).toFixed(0)} %` : '–'));
    row('turns in jams', (look) => (look.scorecard ? `${look.scorecard.jam_turning.toFixed(0)} °/s` : '–'));
    row('orders ended', (look) => Object.entries(look.outcomes).map(([ending, count]) => `${count} ${ending}`).join(', ') || 'none', true);
    row('last outcome', (look) => (look.last ? `${look.last.ending}: ${look.last.why}` : '–'), true);
    return part;
  }

  private plots(names: string[]): HTMLElement {
    const part = section('The last 20 seconds');
    for (const [label, unit, value] of [
      ['speed', 'm/s', (sample: Sample) => sample.speed],
      ['distance left', 'm', (sample: Sample) => sample.left],
    ] as [string, string, (sample: Sample) => number | null][]) {
      const canvas = el('canvas', { class: 'plot', role: 'img', 'aria-label': `${label} over the last 20 seconds` }) as HTMLCanvasElement;
      part.append(canvas);
      this.live.push(() =>
        plot(
          canvas,
          `${label}, ${unit}`,
          names.map((name) => ({
            samples: (this.state.history.get(name) ?? []).map((sample) => ({ t: sample.t, value: value(sample) })),
            other: name === this.state.pinned,
          })),
        ),
      );
    }
    return part;
  }

  private sliders(title: string, of: 'gait' | 'body', names: string[]): HTMLElement {
    const part = foldable(title, of === 'gait');
    const keys = this.schema?.$defs[of]?.properties ?? {};
    const shared = of === 'gait' ? names.map((name) => this.state.scene?.npcs[this.state.index(name)]?.shared_gait) : [];
    shared.forEach((gait) => {
      const others = this.state.scene?.npcs.filter((one) => one.shared_gait === gait).length ?? 0;
      if (gait && others > 1) part.append(el('p', { class: 'quiet' }, `The gait ${gait} is shared by ${others} characters.`));
    });
    const order = Object.keys(this.state.closely.get(names[0])?.[of] ?? {});
    if (order.length === 0) this.live.push(() => this.state.closely.get(names[0]) && this.rebuildSoon());
    for (const key of order) {
      const schema = keys[key];
      if (!schema) continue;
      const line = el('div', { class: 'row slider' });
      line.append(nameOf(key, schema));
      for (const name of names)
        line.append(
          this.control(`${name}: ${key}`, schema, () => this.state.closely.get(name)?.[of][key] ?? 0, (value) => ({
            set: { path: ['npc', name, of, key], value },
          })),
        );
      part.append(line);
    }
    return part;
  }

  private rebuildSoon(): void {
    this.built = '';
    queueMicrotask(() => this.build());
  }

  /** The options that the steps of its list give as numbers. */
  private orderOptions(name: string): HTMLElement {
    const part = foldable('Orders, as the scene gives them', false);
    const one = (): NpcInfo | undefined => this.state.scene?.npcs[this.state.index(name)];
    const steps = one()?.do ?? [];
    if (steps.length === 0) part.append(el('p', { class: 'quiet' }, 'It has no orders of its own.'));
    steps.forEach((step, number) => {
      const { verb, values } = one()?.orders[number] ?? { verb: '', values: {} };
      const keys = this.schema?.$defs[`${verb}_step`]?.properties ?? {};
      part.append(el('h4', {}, `${number + 1}. ${verb}`));
      for (const key of Object.keys(values))
        this.slider(part, key, `${verb}: ${key}`, keys[key], ['npc', name, 'do', String(number), key], () => one()?.orders[number]?.values[key] ?? 0);
      // Ranges, such as pauses, and what every step may have, where the file gives them.
      for (const [key, value] of Object.entries(step)) {
        const schema = keys[key]?.oneOf?.find((each) => each.type === 'number') ?? keys[key];
        if (key in values || schema?.minimum === undefined) continue;
        const list = Array.isArray(value) ? value : null;
        (list ?? [value]).forEach((given, i) => {
          if (typeof given !== 'number') return;
          const now = (): number => {
            const at = one()?.do[number]?.[key];
            return Number(Array.isArray(at) ? at[i] : at);
          };
          const path = ['npc', name, 'do', String(number), key, ...(list ? [String(i)] : [])];
          const label = list ? `${key} ${i === 0 ? 'from' : 'to'}` : key;
          this.slider(part, label, `${verb}: ${label}`, { ...schema, ...described(keys[key]) }, path, now);
        });
      }
    });
    return part;
  }

  private slider(part: HTMLElement, label: string, spoken: string, key: Key | undefined, path: string[], now: () => number): void {
    if (!key) return;
    const line = el('div', { class: 'row slider' });
    line.append(nameOf(label, key), this.control(spoken, key, now, (value) => ({ set: { path, value } })));
    part.append(line);
  }

  /** A slider and a number for one value; the slider reaches as far as makes sense, the number as far as is allowed. */
  private control(label: string, key: Key, now: () => number, command: (value: number | boolean) => Record<string, unknown>): HTMLElement {
    const box = el('span', { class: 'control' });
    if (key.type === 'boolean') {
      const check = el('input', { type: 'checkbox', 'aria-label': label }) as HTMLInputElement;
      check.addEventListener('change', () => void this.command(command(check.checked)));
      this.live.push(() => document.activeElement !== check && (check.checked = now() !== 0));
      box.append(check);
      return box;
    }
    const min = key.minimum ?? 0;
    const max = key.maximum ?? 1e6;
    const far = Math.min(max, niceAbove(3 * Math.max(now(), key.unit?.startsWith('degrees') ? 120 : 1)));
    const slider = el('input', { type: 'range', min: String(min), max: String(far), step: String(stepFor(far)), 'aria-label': label }) as HTMLInputElement;
    const number = el('input', { type: 'number', min: String(min), max: String(max), step: 'any', 'aria-label': `${label}, as a number` }) as HTMLInputElement;
    let touched = 0;
    let sent = 0;
    const send = (value: number, at_once: boolean): void => {
      touched = performance.now();
      if (!Number.isFinite(value) || (!at_once && touched - sent < everyMs)) return;
      sent = touched;
      void this.command(command(value));
    };
    slider.addEventListener('input', () => {
      number.value = slider.value;
      send(Number(slider.value), false);
    });
    slider.addEventListener('change', () => send(Number(slider.value), true));
    number.addEventListener('change', () => {
      slider.value = number.value;
      send(Number(number.value), true);
    });
    this.live.push(() => {
      if (performance.now() - touched < 700 || document.activeElement === number) return;
      const value = +now().toFixed(3);
      number.value = value < min ? '' : String(value); // none, such as no time for a lap
      slider.value = String(value);
    });
    box.append(slider, number);
    return box;
  }

  private journalPart(names: string[]): HTMLElement {
    const part = foldable('What happened', true);
    const list = el('ol', { class: 'journal' });
    this.live.push(() => {
      const lines = this.state.journal.filter((line) => names.includes(line.npc)).slice(-14).reverse();
      list.replaceChildren(
        ...lines.map((line) => {
          const item = el('li', { class: line.good ? '' : 'bad' });
          item.append(el('time', {}, line.t.toFixed(1)), el('span', {}, line.text));
          return item;
        }),
      );
    });
    part.append(list);
    return part;
  }

  refresh(): void {
    for (const each of [...this.live]) each();
  }

  private async command(command: Record<string, unknown>): Promise<void> {
    try {
      await this.link.send(command);
      this.hint('');
    } catch (error) {
      this.hint(error instanceof Error ? error.message : String(error), true);
    }
  }
}

function nameOf(key: string, schema: Key): HTMLElement {
  const unit = (schema.unit ?? '')
    .replace('metres per second squared', 'm/s²')
    .replace('metres per second', 'm/s')
    .replace('degrees per second', '°/s')
    .replace('metres', 'm')
    .replace('seconds', 's')
    .replace('degrees', '°')
    .replace('fraction of speed', '× speed');
  const made = el('span', { class: 'label', title: schema.description ?? '' });
  made.append(el('span', {}, key.replaceAll('_', ' ')), el('small', {}, unit));
  return made;
}

function described(key: Key | undefined): Partial<Key> {
  return { unit: key?.unit, description: key?.description };
}

function stepFor(far: number): number {
  return 10 ** (Math.floor(Math.log10(far)) - 2);
}
