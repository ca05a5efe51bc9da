/** What stands in a frame before the server's drawing comes into it. */
export const drawnPage = (title: string) =>
  `<!doctype html><html><head><meta charset="utf-8"><title>${title}</title><link rel="stylesheet" href="/strip.css"><link rel="stylesheet" href="/api/fonts/own.css"></head><body></body></html>`
