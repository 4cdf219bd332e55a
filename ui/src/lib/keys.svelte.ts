// One table of keys. A screen binds what it can do while it is shown; the help
// lists what is bound, so that help and behaviour cannot part.
import { me } from './me.svelte';

export interface Binding {
  key: string; // as KeyboardEvent.key, letters in lower case; ' ' is Space
  says: string;
  where: string; // heading in the help
  do: () => void;
  when?: () => boolean;
}

const names: Record<string, string> = {
  ' ': 'Space',
  ArrowUp: 'Up',
  ArrowDown: 'Down',
  Backspace: 'Back',
};

export function keyName(key: string): string {
  return names[key] ?? (key.length === 1 ? key.toUpperCase() : key);
}

// What is bound is kept beside the state that the help shows: while an effect is
// taken down, a state reads as it was before, and what was bound since would be lost.
let all: Binding[] = [];
let bound = $state.raw<Binding[]>(all);

export function bindings(): Binding[] {
  return bound;
}

// keys binds for as long as the component that calls it in an effect is shown.
export function keys(list: Binding[]): () => void {
  bound = all = [...all, ...list];
  return () => {
    bound = all = all.filter((b) => !list.includes(b));
  };
}

function typing(el: EventTarget | null): boolean {
  return (
    el instanceof HTMLElement &&
    (el.isContentEditable || el.matches('input:not([type=checkbox], [type=radio]), textarea, select'))
  );
}

// A control that has the focus keeps the keys that work it.
function own(el: EventTarget | null, key: string): boolean {
  if (!(el instanceof HTMLElement)) return false;
  if (el.closest('[role=dialog], [role=listbox], [aria-haspopup=listbox][aria-expanded=true]')) return true;
  if (key.startsWith('Arrow') && el.closest('[aria-haspopup=listbox]')) return true;
  // Space is the stroke or the mark wherever the focus was left by the last click; Enter works the control.
  const space = key === ' ' && all.some((b) => b.key === ' ' && (b.when?.() ?? true));
  if (space) return el.closest('input, summary, [role=radio], [role=switch], [role=checkbox]') !== null;
  const press = key === 'Enter' || key === ' ';
  if (press && el.closest('a, button, summary, input, [role=radio], [role=switch]')) return true;
  return key.startsWith('Arrow') && el.closest('[role=radiogroup], [role=group][data-arrows]') !== null;
}

// A button is pressed by Space when it is let go: what was taken when it went down is not given to it.
let taken = '';
export function onKeyUp(e: KeyboardEvent): void {
  if (e.key === ' ' && taken === ' ') e.preventDefault();
  taken = '';
}

export function onKey(e: KeyboardEvent): void {
  if (e.ctrlKey || e.metaKey || e.altKey || e.isComposing || typing(e.target)) return;
  const key = e.key.length === 1 ? e.key.toLowerCase() : e.key;
  if (own(e.target, key)) return;
  if (!me.letters && /^[a-z]$/.test(key)) return;
  // The latest bound is the innermost.
  for (let i = all.length - 1; i >= 0; i--) {
    const b = all[i]!;
    if (b.key === key && (b.when?.() ?? true)) {
      e.preventDefault();
      taken = key;
      b.do();
      return;
    }
  }
}
