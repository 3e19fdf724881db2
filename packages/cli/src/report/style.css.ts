/** The look of a report: it stands in the page itself, follows the reader's theme, and prints in black on white. */
export const STYLE = `
:root { --text: #1d2329; --quiet: #566069; --line: #d5dade; --ground: #fff; --good: #0b5d2a; --bad: #9b1c1c; color-scheme: light; }
@media (prefers-color-scheme: dark) { @media screen {
  :root { --text: #dfe4e8; --quiet: #9aa5ae; --line: #3a4248; --ground: #16191c; --good: #8fdba4; --bad: #ffa9a3; color-scheme: dark; }
} }
body { margin: 24px auto; max-width: 1100px; padding: 0 16px; color: var(--text); background: var(--ground); font: 13px/1.5 system-ui, 'DejaVu Sans', sans-serif; }
h1 { font-size: 22px; margin: 0; } h2 { font-size: 16px; margin: 28px 0 6px; } h3 { font-size: 13px; margin: 12px 0 2px; }
p { margin: 4px 0; } ul { margin: 2px 0; padding-inline-start: 20px; } code { font: 12px ui-monospace, 'DejaVu Sans Mono', monospace; }
table { border-collapse: collapse; width: 100%; } caption { text-align: start; color: var(--quiet); padding: 4px 0; }
th, td { padding: 2px 6px; text-align: start; vertical-align: top; border-bottom: 1px solid var(--line); }
th { font-weight: 600; } .grid td { text-align: center; } .grid td:first-child, .grid th:first-child { text-align: start; }
.scroll { overflow-x: auto; }
.quiet { color: var(--quiet); } .good { color: var(--good); } .bad { color: var(--bad); }
@media print { body { margin: 0; max-width: none; } tr, li { break-inside: avoid; } h2, h3 { break-after: avoid; } }
`;
