// The list of characters: to find somebody, and to choose without a pointer.

import { el } from './elements';
import type { State } from './state';

const mostShown = 200;

export class NpcList {
  private readonly find = document.getElementById('find') as HTMLInputElement;
  private readonly names = document.getElementById('names') as HTMLElement;
  private readonly found = document.getElementById('found') as HTMLElement;

  constructor(private readonly state: State) {
    this.find.addEventListener('input', () => this.show());
    this.find.addEventListener('keydown', (event) => {
      if (event.key === 'Enter') this.chooseAll();
      if (event.key === 'ArrowDown') (this.names.firstElementChild as HTMLElement | null)?.focus();
    });
    this.names.addEventListener('click', (event) => this.choose(event.target, event.shiftKey || event.ctrlKey || event.metaKey));
    this.names.addEventListener('keydown', (event) => this.key(event));
    state.on(['scene', 'selection'], () => this.show());
  }

  focus(): void {
    this.find.focus();
    this.find.select();
  }

  private matching(): string[] {
    const words = this.find.value.trim().toLowerCase();
    return (this.state.scene?.npcs ?? [])
      .filter((one) => one.name.toLowerCase().includes(words) || one.tags.some((tag) => tag.toLowerCase().includes(words)))
      .map((one) => one.name);
  }

  private show(): void {
    const matching = this.matching();
    const focused = (document.activeElement as HTMLElement | null)?.dataset.name;
    this.names.replaceChildren(
      ...matching.slice(0, mostShown).map((name, i) => {
        const one = this.state.scene?.npcs[this.state.index(name)];
        const item = el('li', {
          role: 'option',
          'data-name': name,
          tabindex: i === 0 ? '0' : '-1',
          'aria-selected': String(this.state.selected.includes(name)),
        });
        item.append(el('span', {}, name), el('small', {}, one?.tags.join(', ') ?? ''));
        if (this.state.pinned === name) item.classList.add('other');
        return item;
      }),
    );
    if (focused) (this.names.querySelector(`[data-name="${CSS.escape(focused)}"]`) as HTMLElement | null)?.focus();
    const all = this.state.scene?.npcs.length ?? 0;
    this.found.textContent =
      matching.length === all
        ? `${all} characters${all > mostShown ? `, the first ${mostShown} below` : ''}`
        : `${matching.length} of ${all}; Enter chooses ${matching.length === 1 ? 'it' : 'them all'}`;
  }

  private chooseAll(): void {
    this.state.select(this.matching());
  }

  private choose(target: EventTarget | null, more: boolean): void {
    const name = (target as HTMLElement | null)?.closest('li')?.dataset.name;
    if (!name) return;
    const { selected } = this.state;
    if (!more) this.state.select([name]);
    else this.state.select(selected.includes(name) ? selected.filter((other) => other !== name) : [...selected, name]);
  }

  private key(event: KeyboardEvent): void {
    const item = event.target as HTMLElement;
    if (event.key === 'Enter' || event.key === ' ') {
      event.preventDefault();
      event.stopPropagation();
      this.choose(item, event.shiftKey || event.ctrlKey);
    }
    const next = event.key === 'ArrowDown' ? item.nextElementSibling : event.key === 'ArrowUp' ? item.previousElementSibling : null;
    if (!next) return;
    event.preventDefault();
    (next as HTMLElement).focus();
  }
}
