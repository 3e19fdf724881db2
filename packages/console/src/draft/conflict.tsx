import { useEffect, useRef } from 'react';
import { Alert, Button, Space } from 'antd';
import { yaml } from '@codemirror/lang-yaml';
import { MergeView } from '@codemirror/merge';
import { EditorState } from '@codemirror/state';
import { EditorView, lineNumbers } from '@codemirror/view';
import type { Draft } from '@kleidon/client';
import { editorTheme } from './theme.ts';
import css from './site-file.module.css';

interface Props {
  readonly mine: string;
  readonly theirs: Draft;
  readonly isDark: boolean;
  /** Goes on with a text, on top of their version; nothing is saved yet. */
  onResolve(text: string): void;
}

/** Someone else saved first: both texts side by side, and mine can take in what theirs has. */
export function Conflict({ mine, theirs, isDark, onResolve }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const merge = useRef<MergeView | null>(null);

  useEffect(() => {
    const shared = [yaml(), lineNumbers(), editorTheme(isDark)];
    const view = new MergeView({
      parent: host.current!,
      a: {
        doc: theirs.text,
        extensions: [...shared, EditorState.readOnly.of(true), label('Their version')],
      },
      b: { doc: mine, extensions: [...shared, label('Your version')] },
      revertControls: 'a-to-b',
      collapseUnchanged: { margin: 3 },
    });
    merge.current = view;
    return () => {
      merge.current = null;
      view.destroy();
    };
  }, [mine, theirs, isDark]);

  return (
    <section className={css.conflict} aria-label="Two versions">
      <Alert
        type="warning"
        showIcon
        title={`Someone saved version ${theirs.version} while you were typing. Nothing was overwritten, and your text is still here.`}
        description="Left: what they saved. Right: yours, which you can edit; the arrows take over a piece of theirs. Go on with yours, then save again."
      />
      <div className={css.merge} ref={host} />
      <Space>
        <Button type="primary" onClick={() => onResolve(merge.current!.b.state.doc.toString())}>
          Go on with the right side
        </Button>
        <Button onClick={() => onResolve(theirs.text)}>Drop mine, take theirs</Button>
      </Space>
    </section>
  );
}

const label = (text: string) => EditorView.contentAttributes.of({ 'aria-label': text });
