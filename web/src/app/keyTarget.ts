/** Inputs that are pressed, not typed into. */
const PRESSED = ['checkbox', 'radio', 'button', 'submit', 'reset', 'file', 'color', 'range'];
/** What Enter and the space bar press by themselves. */
const PRESSABLE = 'a[href], button, summary, [role="button"], [role="option"], [role="menuitem"], [role="tab"]';

/**
 * Whether a key of a view may do what it says while the focus is on an element: not while something is typed, not where the element itself answers to that key.
 * Boxes and buttons that have the focus leave letters to the view.
 */
export function leavesKey(target: EventTarget | null, pressed: string): boolean {
  if (!(target instanceof HTMLElement)) return true;
  if (target.isContentEditable) return false;
  const isNamed = pressed.length > 1 || pressed === ' ';
  if (target instanceof HTMLInputElement) return PRESSED.includes(target.type) && !isNamed;
  if (target instanceof HTMLTextAreaElement || target instanceof HTMLSelectElement) return false;
  return !((pressed === 'Enter' || pressed === ' ') && target.closest(PRESSABLE));
}
