// The connection to the program: messages come in one endless answer, commands are posted.

import { Frame, type Message } from './messages';

export interface Listener {
  message(message: Message): void;
  frame(frame: Frame): void;
  state(connected: boolean, why: string): void;
}

export class Link {
  page = 0;
  private readonly token = new URLSearchParams(location.search).get('token') ?? '';

  constructor(private readonly listener: Listener) {}

  /** Reads messages for ever; connects again when the program has gone and come back. */
  async run(): Promise<void> {
    for (;;) {
      try {
        await this.read();
        this.listener.state(false, 'the program has ended');
      } catch (error) {
        this.listener.state(false, error instanceof Error ? error.message : String(error));
      }
      await new Promise((after) => setTimeout(after, 1000));
    }
  }

  private async read(): Promise<void> {
    const answer = await fetch('/stream', { headers: { 'X-Token': this.token } });
    if (!answer.ok || !answer.body) throw new Error(await why(answer));
    const reader = answer.body.getReader();
    let have = new Uint8Array(0);
    for (;;) {
      const { done, value } = await reader.read();
      if (done) return;
      const all = new Uint8Array(have.length + value.length);
      all.set(have);
      all.set(value, have.length);
      have = this.take(all);
    }
  }

  /** Takes all whole messages; answers with the rest. */
  private take(bytes: Uint8Array): Uint8Array<ArrayBuffer> {
    let at = 0;
    let latest: DataView | null = null; // a page that lags shows the last frame only
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
    while (bytes.length - at >= 5) {
      const size = view.getUint32(at, true);
      if (bytes.length - at < 5 + size) break;
      const body = bytes.subarray(at + 5, at + 5 + size);
      if (view.getUint8(at + 4) === 1) latest = new DataView(bytes.buffer, bytes.byteOffset + at + 5, size);
      else this.hear(JSON.parse(new TextDecoder().decode(body)) as Message);
      at += 5 + size;
    }
    if (latest) this.listener.frame(new Frame(latest));
    return bytes.slice(at);
  }

  private hear(message: Message): void {
    if (message.type === 'hello') {
      this.page = message.page;
      this.listener.state(true, '');
    }
    this.listener.message(message);
  }

  /** Has a command carried out; what it answers, or an error that says why not. */
  async send<Answer = { done?: boolean }>(command: Record<string, unknown>): Promise<Answer> {
    const answer = await fetch('/command', {
      method: 'POST',
      headers: { 'X-Token': this.token, 'Content-Type': 'application/json' },
      body: JSON.stringify({ ...command, page: this.page }),
    });
    if (!answer.ok) throw new Error(await why(answer));
    return (await answer.json()) as Answer;
  }

  async schema(): Promise<Schema> {
    const answer = await fetch('/schema', { headers: { 'X-Token': this.token } });
    return (await answer.json()) as Schema;
  }
}

/** What scene files may say: the part of a JSON Schema that sliders are made of. */
export interface Schema {
  $defs: Record<string, { properties?: Record<string, Key> }>;
}
export interface Key {
  type?: string;
  minimum?: number;
  maximum?: number;
  description?: string;
  unit?: string;
  oneOf?: Key[];
}

async function why(answer: Response): Promise<string> {
  try {
    return ((await answer.json()) as { why: string }).why;
  } catch {
    return `${answer.status} ${answer.statusText}`;
  }
}
