import { useEffect, useRef, useState, type ComponentProps } from 'react';
import { Input } from 'antd';
import { NavigationType, useLocation, useNavigationType } from 'react-router';

/** Typing has paused after this time without a key, in milliseconds. */
const PAUSE = 150;

/**
 * Keeps a typed text that is also in the page's address. Each key shows at once. The address follows when typing
 * pauses or the field loses focus, because the router may take longer to draw a page than a person takes to type.
 *
 * @param value the text in the address
 * @param commit puts a text into the address; returns what it puts there, or null for a text that it refuses
 */
export function useTyped(value: string, commit: (text: string) => string | null) {
  const [text, setText] = useState(value);
  const timer = useRef<number>(undefined);
  /** A committed text that the address does not have yet. */
  const sent = useRef<string | null>(null);
  const latest = useRef(commit);
  useEffect(() => {
    latest.current = commit;
  });
  const { key } = useLocation();
  const isFromHistory = useNavigationType() === NavigationType.Pop;
  useEffect(() => {
    const isOwn = value === sent.current;
    const isTyping = sent.current !== null || timer.current !== undefined;
    if (isOwn) sent.current = null;
    else if (isFromHistory || !isTyping) {
      end(timer);
      sent.current = null;
      setText(value);
    }
  }, [value, key, isFromHistory]);
  useEffect(() => () => end(timer), []);
  const flush = (next: string): void => {
    if (timer.current === undefined) return;
    end(timer);
    sent.current = latest.current(next);
  };
  return {
    value: text,
    type: (next: string): void => {
      setText(next);
      end(timer);
      timer.current = window.setTimeout(() => flush(next), PAUSE);
    },
    flush: () => flush(text),
  };
}

function end(timer: { current: number | undefined }): void {
  window.clearTimeout(timer.current);
  timer.current = undefined;
}

/** A field for a text in the page's address. */
export function TypedInput({
  value,
  onType,
  ...props
}: Omit<ComponentProps<typeof Input>, 'value' | 'onChange' | 'onBlur' | 'onPressEnter'> & {
  value: string;
  onType: (text: string) => void;
}) {
  const typed = useTyped(value, (text) => {
    onType(text);
    return text;
  });
  return (
    <Input
      {...props}
      value={typed.value}
      onChange={({ target }) => typed.type(target.value)}
      onBlur={typed.flush}
      onPressEnter={typed.flush}
    />
  );
}
