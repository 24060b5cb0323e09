/** Whether a key belongs to a field or a dialog rather than to the page. */
export function typing(event: KeyboardEvent): boolean {
  if (event.ctrlKey || event.metaKey || event.altKey) return true;
  const at = event.target;
  if (!(at instanceof HTMLElement)) return false;
  return at.matches('input, textarea, select, [role="slider"]') || at.closest('[role="dialog"], [role="alertdialog"]') !== null;
}
