// Pieces that the page is put together from.

export function el(tag: string, attributes: Record<string, string> = {}, text = ''): HTMLElement {
  const made = document.createElement(tag);
  for (const [key, value] of Object.entries(attributes)) if (value !== '') made.setAttribute(key, value);
  if (text) made.textContent = text;
  return made;
}

export function button(text: string, then: () => void): HTMLButtonElement {
  const made = el('button', { type: 'button' }, text) as HTMLButtonElement;
  made.addEventListener('click', then);
  return made;
}

export function section(title: string): HTMLElement {
  const part = el('section');
  part.append(el('h3', {}, title));
  return part;
}

export function foldable(title: string, open: boolean): HTMLElement {
  const part = el('details', open ? { open: 'open' } : {});
  part.append(el('summary', {}, title));
  return part;
}
