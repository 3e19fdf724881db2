/** As many places are remembered. */
const MOST = 20;

interface Place {
  readonly element: HTMLElement;
  /** The page on which it had the focus. */
  readonly page: string;
}

/**
 * Keeps the focus where someone works (WCAG 2.2, 2.4.3): when what has it goes away or can't be used any more, the
 * last place before it that is still there gets it, such as the button that opened a panel; where there is none, or on
 * another page, the heading. Whoever clicks beside everything has no focus, and is given none.
 *
 * @returns what ends it
 */
export function keepFocus(): () => void {
  const places: Place[] = [];
  let frame = 0;

  const isLost = (): boolean =>
    places.length > 0 && document.hasFocus() && document.activeElement === document.body;

  const remember = ({ target }: FocusEvent): void => {
    if (!(target instanceof HTMLElement)) return;
    places.push({ element: target, page: location.pathname });
    if (places.length > MOST) places.shift();
  };

  const leave = ({ target, relatedTarget }: FocusEvent): void => {
    if (relatedTarget !== null || !(target instanceof HTMLElement)) return;
    // What is taken away is still there while it tells that it loses the focus.
    queueMicrotask(() => {
      if (isLost() && isUsable(target)) places.length = 0;
    });
  };

  const give = (): void => {
    if (!isLost()) return;
    const before = places.findLast(
      ({ element, page }) => page === location.pathname && isUsable(element),
    );
    if (before) before.element.focus();
    else focusHeading();
  };

  const look = (): void => {
    cancelAnimationFrame(frame);
    // The browser takes the focus from what can't be used any more when it draws.
    frame = requestAnimationFrame(() => setTimeout(give));
  };

  const changes = new MutationObserver(look);
  changes.observe(document.body, {
    subtree: true,
    childList: true,
    attributes: true,
    attributeFilter: ['disabled'],
  });
  document.addEventListener('focusin', remember);
  document.addEventListener('focusout', leave);
  return () => {
    cancelAnimationFrame(frame);
    changes.disconnect();
    document.removeEventListener('focusin', remember);
    document.removeEventListener('focusout', leave);
  };
}

const isUsable = (element: HTMLElement): boolean =>
  element.isConnected && !element.matches(':disabled') && element.checkVisibility();

function focusHeading(): void {
  const heading = document.querySelector<HTMLElement>('main h1');
  if (!heading) return;
  heading.tabIndex = -1;
  heading.focus({ preventScroll: true });
}
