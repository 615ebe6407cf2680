// The tuned values, as a comparison of the scene with its file; they can be saved or undone.

import { button, el } from './elements';
import type { Link } from './link';
import type { State } from './state';

export class Changes {
  readonly open = button('Changes', () => void this.show());
  private readonly dialog = document.createElement('dialog');

  constructor(
    private readonly state: State,
    private readonly link: Link,
    private readonly hint: (text: string, bad?: boolean) => void,
  ) {
    this.dialog.setAttribute('aria-label', 'Changes of the scene');
    document.body.append(this.dialog);
    this.open.id = 'changes';
    state.on(['scene'], () => {
      this.open.disabled = !state.scene?.changed;
      this.open.textContent = state.scene?.changed ? 'Changes …' : 'No changes';
    });
  }

  private async show(): Promise<void> {
    const { kept, played } = await this.link.send<{ kept: string; played: string }>({ texts: true });
    const lines = differences(kept.split('\n'), played.split('\n'));
    const list = el('pre', { tabindex: '0' });
    for (const line of lines) list.append(el('div', { class: line.sign === '+' ? 'new' : line.sign === '-' ? 'old' : '' }, `${line.sign} ${line.text}`));
    const close = button('Close', () => this.dialog.close());
    this.dialog.replaceChildren(
      el('h2', {}, 'Tuned values'),
      el('p', { class: 'quiet' }, `${this.state.scene?.file ?? ''}, and as it is played now. Comments stay where they are.`),
      list,
      button('Save as a file beside it', () => void this.save()),
      button('Undo all', () => void this.revert()),
      close,
    );
    this.dialog.showModal();
    close.focus();
  }

  private async save(): Promise<void> {
    try {
      const { file } = await this.link.send<{ file: string }>({ save: true });
      this.hint(`Saved as ${file}.`);
    } catch (error) {
      this.hint((error as Error).message, true);
    }
    this.dialog.close();
  }
  private async revert(): Promise<void> {
    await this.link.send({ revert: true }).catch((error: Error) => this.hint(error.message, true));
    this.dialog.close();
  }
}

interface Line {
  sign: '+' | '-' | ' ';
  text: string;
}

/** Lines taken out and put in, with two lines around each; by the longest common part. */
function differences(a: string[], b: string[]): Line[] {
  const same: Uint32Array[] = Array.from({ length: a.length + 1 }, () => new Uint32Array(b.length + 1));
  for (let i = a.length - 1; i >= 0; --i)
    for (let k = b.length - 1; k >= 0; --k)
      same[i][k] = a[i] === b[k] ? same[i + 1][k + 1] + 1 : Math.max(same[i + 1][k], same[i][k + 1]);
  const all: Line[] = [];
  let i = 0;
  let k = 0;
  while (i < a.length || k < b.length) {
    if (i < a.length && k < b.length && a[i] === b[k]) {
      all.push({ sign: ' ', text: a[i++] });
      ++k;
    } else if (i < a.length && (k >= b.length || same[i + 1][k] >= same[i][k + 1])) {
      all.push({ sign: '-', text: a[i++] });
    } else {
      all.push({ sign: '+', text: b[k++] });
    }
  }
  return all.filter((line, at) => line.sign !== ' ' || all.slice(Math.max(0, at - 2), at + 3).some((near) => near.sign !== ' '));
}
