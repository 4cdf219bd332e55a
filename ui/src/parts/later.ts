// What nobody needs for the first page to stand: dialogs, menus, calculators. They come together, since most of them is one library.
export { default as Choice } from './Choice.svelte';
export { default as Decoded } from './Decoded.svelte';
export { default as KeyHelp } from './KeyHelp.svelte';
export { default as Palette } from './Palette.svelte';
export { default as Refused } from './Refused.svelte';
export { default as Slate } from './Slate.svelte';
