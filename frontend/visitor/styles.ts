// The look, by variables that a site may set on the element: `--search-…`. Sizes follow the font that it stands in.

export const STYLES = `
:host {
  --_text: var(--search-text, #0f2f31);
  --_ground: var(--search-ground, #fff);
  --_quiet: var(--search-quiet, #4a6264);
  --_line: var(--search-line, #c3d0cc);
  --_accent: var(--search-accent, #1f5c66);
  --_mark: var(--search-mark, #f7dcc6);
  --_radius: var(--search-radius, 4px);
  --_font: var(--search-font, inherit);
  display: block;
  color: var(--_text);
  background: var(--_ground);
  font-family: var(--_font);
  line-height: 1.45;
}
:host([hidden]) { display: none }
* { box-sizing: border-box }
.box { position: relative; display: flex; gap: 8px }
label.sr, .sr {
  position: absolute; width: 1px; height: 1px; overflow: hidden; clip-path: inset(50%); white-space: nowrap;
}
input[type='search'] {
  flex: 1; min-width: 0; min-height: 44px; padding: 8px 12px; font: inherit; color: inherit;
  background: var(--_ground); border: 1px solid var(--_quiet); border-radius: var(--_radius);
}
button, select {
  font: inherit; color: inherit; background: none; border: 1px solid var(--_line); border-radius: var(--_radius);
  min-height: 32px; padding: 4px 10px; cursor: pointer;
}
button.go { min-height: 44px; padding-inline: 18px; color: var(--_ground); background: var(--_accent); border-color: var(--_accent) }
button.plain { border: 0; padding: 4px 0; color: var(--_accent); text-decoration: underline; text-align: start }
:focus-visible { outline: 3px solid var(--_accent); outline-offset: 2px }
.suggestions {
  position: absolute; inset: 100% 0 auto 0; z-index: 10; margin: 2px 0 0; padding: 4px 0; list-style: none;
  background: var(--_ground); border: 1px solid var(--_line); border-radius: var(--_radius);
  box-shadow: 0 6px 20px rgb(0 0 0 / 0.12); max-height: 60vh; overflow-y: auto;
}
.suggestions li { padding: 10px 12px; cursor: pointer; overflow-wrap: anywhere }
.suggestions li[aria-selected='true'] { background: color-mix(in srgb, var(--_accent) 14%, var(--_ground)) }
.said { min-height: 1.5em; margin: 12px 0 4px; color: var(--_quiet) }
.help { margin: 8px 0; padding: 0; list-style: none; display: grid; gap: 4px }
.below { display: grid; gap: 12px 28px; grid-template-columns: minmax(0, 1fr) }
.below[data-waiting] .list { opacity: 0.55 }
.bar { display: flex; flex-wrap: wrap; gap: 8px 16px; align-items: center; margin: 4px 0 8px }
.chosen { display: flex; flex-wrap: wrap; gap: 6px; padding: 0; margin: 0; list-style: none }
.chosen button::after { content: ' ×' }
ol.list { margin: 0; padding: 0; list-style: none }
ol.list > li { display: flex; gap: 14px; padding: 14px 0; border-top: 1px solid var(--_line) }
.row { min-width: 0; flex: 1 }
.picture { flex: none; width: 72px; height: 72px; object-fit: contain }
h2 { margin: 0 0 2px; font-size: 1.1em; line-height: 1.3; overflow-wrap: anywhere }
h2 :is(a, button) { color: var(--_accent); border: 0; padding: 0; min-height: 24px; text-align: start; text-decoration: underline; font-weight: 600 }
p.text { margin: 2px 0; overflow-wrap: anywhere; white-space: pre-line }
p.facts { margin: 2px 0; color: var(--_quiet); font-size: 0.92em; overflow-wrap: anywhere }
mark { background: var(--_mark); color: inherit; padding-inline: 1px }
dl { margin: 8px 0; display: grid; grid-template-columns: minmax(80px, max-content) minmax(0, 1fr); gap: 2px 14px; font-size: 0.95em }
dt { color: var(--_quiet) } dd { margin: 0; overflow-wrap: anywhere; white-space: pre-line }
fieldset { border: 0; margin: 0 0 12px; padding: 0; min-width: 0 }
legend { padding: 0 0 4px; font-weight: 600 }
fieldset label { display: flex; gap: 8px; align-items: baseline; padding: 4px 0; min-height: 32px; cursor: pointer }
fieldset label span:first-of-type { flex: 1; min-width: 0; overflow-wrap: anywhere }
fieldset label .count { color: var(--_quiet); font-variant-numeric: tabular-nums }
nav ul { display: flex; flex-wrap: wrap; gap: 6px; padding: 12px 0; margin: 0; list-style: none }
nav button { min-width: 44px; min-height: 44px }
nav [aria-current] { background: var(--_accent); color: var(--_ground); border-color: var(--_accent) }
summary { cursor: pointer; min-height: 32px; padding: 4px 0; font-weight: 600 }
@container (min-width: 760px) {
  .below.parted { grid-template-columns: 210px minmax(0, 1fr) }
}
.around { container-type: inline-size }
@media (prefers-reduced-motion: no-preference) { .list { transition: opacity 0.15s 0.1s } }
`
