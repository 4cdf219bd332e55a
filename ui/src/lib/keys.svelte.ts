// One table of keys. A screen binds what it can do while it is shown; the help
// lists what is bound, so that help and behaviour cannot part.
import { me } from './me.svelte';

export interface Binding {
  key: string; // as KeyboardEvent.key, letters in lower case; ' ' is Space
  says: string;
  where: string; // heading in the help
  do: (again: boolean) => void; // again: the key is kept down
  when?: () => boolean;
  repeats?: boolean; // for as long as the key is kept down; others act once a press
  held?: boolean; // only once it was kept down for a second
  at?: () => Element | undefined; // the control that says so
}

export const heldMs = 1000;

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
let down = $state.raw<Binding>(); // kept down now, until it acts

export function bindings(): Binding[] {
  return bound;
}

// keptDown is the key that is kept down and has not acted yet.
export function keptDown(): string {
  return down?.key ?? '';
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

const can = (key: string) => all.some((b) => b.key === key && (b.when?.() ?? true));

// The control that was worked last, while it has the focus: a tick that was set, a menu that was chosen from.
let worked: Element | null = null;
export function workedOn(el: EventTarget | null): void {
  worked = el instanceof Element ? el.closest('a, button, summary, input') : null;
  pressed = worked;
}
// The control that was pressed last, by touch or by its key: what is refused is said at it.
let pressed: Element | null = null;
export function pressedLast(): Element | null {
  return pressed;
}
export function left(el: EventTarget | null): void {
  if (el === worked) worked = null;
}

// A control that has the focus keeps the keys that work it.
function own(el: EventTarget | null, key: string): boolean {
  if (!(el instanceof HTMLElement)) return false;
  if (el.closest('[role=dialog], [role=listbox], [aria-haspopup=listbox][aria-expanded=true]')) return true;
  if (key.startsWith('Arrow') && el.closest('[aria-haspopup=listbox]')) return true;
  // Space is what the black button says, wherever the focus was left; Enter works the control.
  if (key === ' ' && can(' ')) return false;
  const control = el.closest('a, button, summary, input, [role=radio], [role=switch]');
  if (key === 'Enter' && can('Enter')) {
    // One that was come to by keyboard is worked by Enter. One that a click left the focus on is not, and a
    // tick or a menu only once: then Enter goes on.
    if (control?.matches('[role=checkbox]')) return false; // Space works a tick
    const twice =
      control === worked && !control?.matches('a, button:not([aria-pressed], [aria-haspopup], [role])');
    return control !== null && control.matches(':focus-visible') && !twice;
  }
  if (key === 'Enter' || key === ' ') return control !== null;
  return key.startsWith('Arrow') && el.closest('[role=radiogroup], [role=group][data-arrows]') !== null;
}

// A button is pressed by Space when it is let go: what was taken when it went down is not given to it.
let taken = '';
let timer: ReturnType<typeof setTimeout> | undefined;
export function onKeyUp(e: KeyboardEvent): void {
  if (e.key === ' ' && taken === ' ') e.preventDefault();
  taken = '';
  clearTimeout(timer);
  down = undefined;
}

export function onKey(e: KeyboardEvent): void {
  // A control has taken it; a tick does so with Enter only to do nothing.
  const tick = e.target instanceof Element && e.target.closest('[role=checkbox]') !== null;
  if (e.defaultPrevented && !tick) return;
  if (e.ctrlKey || e.metaKey || e.altKey || e.isComposing || typing(e.target)) return;
  const key = e.key.length === 1 ? e.key.toLowerCase() : e.key;
  if (own(e.target, key)) return;
  if (!me.letters && key.length === 1 && key !== ' ') return;
  // The latest bound is the innermost.
  for (let i = all.length - 1; i >= 0; i--) {
    const b = all[i]!;
    if (b.key !== key || !(b.when?.() ?? true)) continue;
    e.preventDefault();
    taken = key;
    if (e.repeat && !b.repeats) return;
    pressed = b.at?.() ?? null;
    if (!b.held) {
      b.do(e.repeat);
      return;
    }
    down = b;
    timer = setTimeout(() => {
      down = undefined;
      b.do(false);
    }, heldMs);
    return;
  }
}

// A menu would take Enter before the page does: one that was just chosen from leaves it to the page.
export function onKeyFirst(e: KeyboardEvent): void {
  const menu = worked?.matches('[aria-haspopup=listbox]:not([aria-expanded=true])') && worked === e.target;
  if (e.key !== 'Enter' || !menu || !can('Enter')) return;
  onKey(e);
  if (e.defaultPrevented) e.stopPropagation();
}
