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
    let room = new Uint8Array(1 << 16); // grows to twice its size, so that a large message is not copied again and again
    let length = 0;
    for (;;) {
      const { done, value } = await reader.read();
      if (done) return;
      if (length + value.length > room.length) {
        const larger = new Uint8Array(Math.max(2 * room.length, length + value.length));
        larger.set(room.subarray(0, length));
        room = larger;
      }
      room.set(value, length);
      length += value.length;
      const taken = this.take(room.subarray(0, length));
      if (taken === 0) continue;
      // What was taken may still be looked at.
      const rest = room.slice(taken, length);
      room = new Uint8Array(Math.max(1 << 16, 2 * rest.length));
      room.set(rest);
      length = rest.length;
    }
  }

  /** Takes all whole messages; answers with how many bytes they are. */
  private take(bytes: Uint8Array): number {
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
    return at;
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
