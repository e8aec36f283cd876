import { html, raw } from 'hono/html'

/** The plain frame both services' pages share: one looks at, and edits, "the other side" here. */
export const page = (title: string, note: string, body: string) =>
  html`<!doctype html>
    <html lang="en">
      <head>
        <meta charset="utf-8" />
        <meta name="viewport" content="width=device-width" />
        <title>${title} (stand-in)</title>
        <style>
          body {
            font:
              15px/1.5 system-ui,
              sans-serif;
            margin: 2rem auto;
            max-width: 60rem;
            padding: 0 1rem;
            color: #222;
          }
          table {
            border-collapse: collapse;
            width: 100%;
            margin: 0.5rem 0 1.5rem;
          }
          th,
          td {
            text-align: left;
            padding: 0.25rem 0.5rem;
            border-bottom: 1px solid #ddd;
            vertical-align: middle;
          }
          form {
            display: inline;
          }
          input,
          select,
          button {
            font: inherit;
            padding: 0.15rem 0.35rem;
          }
          input[type='text'] {
            width: 14rem;
          }
          .note {
            color: #555;
          }
          .done {
            text-decoration: line-through;
            color: #777;
          }
        </style>
      </head>
      <body>
        <p class="note"><a href="/">Stand-ins</a></p>
        <h1>${title}</h1>
        <p class="note">${note}</p>
        ${raw(body)}
      </body>
    </html>`

export const esc = (text: unknown): string =>
  String(text ?? '').replace(/[&<>"']/g, c => `&#${c.charCodeAt(0)};`)

export const field = (name: string, value: unknown, label: string, type = 'text'): string =>
  `<input type="${type}" name="${name}" value="${esc(value)}" aria-label="${esc(label)}" placeholder="${esc(label)}">`
