import type { Response } from 'express';

export interface PlainPage {
  readonly status: number;
  readonly heading: string;
  readonly words: string;
  /** A field for something secret, sent to the address. */
  readonly asks?: { readonly label: string; readonly name: string; readonly action: string };
  readonly message?: string;
}

/** A page that is seen from outside: without scripts, and with nothing in it that came from the request. */
export function sendPlainPage(response: Response, { status, heading, words, asks, message }: PlainPage): void {
  const form = asks
    ? `<label>${asks.label}<input name="${asks.name}" type="password" autocomplete="current-password" required autofocus></label>
<button>Open</button>`
    : '';
  response
    .status(status)
    .type('html')
    .setHeader('cache-control', 'no-store')
    .send(
      `<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Pampero</title>
<style>body{font:16px/1.5 system-ui,sans-serif;background:#f4efe4;color:#1c262d;display:grid;place-items:center;min-height:90vh;margin:0}
form{background:#fff;border:1px solid #cfc8b8;border-radius:8px;padding:2rem;width:min(22rem,90vw);box-sizing:border-box;display:grid;gap:.75rem}
h1{font-size:1.25rem;margin:0}label{display:grid;gap:.25rem}input{font:inherit;padding:.5rem;border:1px solid #5d6a70;border-radius:4px}
button{font:inherit;padding:.5rem 1rem;border:0;border-radius:4px;background:#0f6a75;color:#fff;justify-self:start}p{margin:0;color:#5d6a70}[role=alert]{color:#a32}</style>
<form method="post"${asks ? ` action="${asks.action}"` : ''}><h1>${heading}</h1>
<p>${words}</p>
${message ? `<p role="alert">${message}</p>` : ''}
${form}</form></html>`,
    );
}
