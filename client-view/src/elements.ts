type Attributes = Readonly<Record<string, string | boolean | ((event: Event) => void)>>;

/** An element with its attributes, listeners ("onclick") and children. */
export function element<K extends keyof HTMLElementTagNameMap>(
  tag: K,
  attributes: Attributes = {},
  ...children: readonly (Node | string)[]
): HTMLElementTagNameMap[K] {
  const made = document.createElement(tag);
  for (const [name, value] of Object.entries(attributes))
    if (typeof value === 'function') made.addEventListener(name.slice(2), value);
    else if (typeof value === 'boolean') made.toggleAttribute(name, value);
    else made.setAttribute(name, value);
  made.append(...children);
  return made;
}

export function byId<E extends HTMLElement = HTMLElement>(id: string): E {
  const found = document.getElementById(id);
  if (!found) throw new Error(`The page has no ${id}.`);
  return found as E;
}
