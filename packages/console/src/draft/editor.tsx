import { useEffect, useRef } from 'react';
import { yaml } from '@codemirror/lang-yaml';
import { lintGutter, setDiagnostics, type Diagnostic } from '@codemirror/lint';
import { EditorState } from '@codemirror/state';
import { keymap } from '@codemirror/view';
import { basicSetup, EditorView } from 'codemirror';
import type { Check } from '@kleidon/client';
import { siteFileHelp } from './completion.ts';
import { editorTheme } from './theme.ts';
import type { queries } from '@kleidon/core';
import css from './site-file.module.css';

interface Props {
  readonly text: string;
  readonly isDark: boolean;
  readonly isReadOnly: boolean;
  readonly check: Check | null;
  /** The line to show, and a number that grows when it is to be shown again. */
  readonly goTo: { readonly line: number; readonly round: number } | null;
  onChange(text: string): void;
  onSave(): void;
}

/** The editor of the site file, with errors and findings at their lines. */
export function Editor({ text, isDark, isReadOnly, check, goTo, onChange, onSave }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const handlers = useRef({ onChange, onSave });
  const current = useRef(text);

  useEffect(() => {
    handlers.current = { onChange, onSave };
  });

  useEffect(() => {
    const editor = new EditorView({
      parent: host.current!,
      state: EditorState.create({
        doc: current.current,
        extensions: [
          keymap.of([
            { key: 'Mod-s', preventDefault: true, run: () => (handlers.current.onSave(), true) },
          ]),
          basicSetup,
          yaml(),
          siteFileHelp(),
          lintGutter(),
          EditorState.readOnly.of(isReadOnly),
          EditorView.contentAttributes.of({ 'aria-label': 'Site file' }),
          EditorView.updateListener.of((update) => {
            if (!update.docChanged) return;
            current.current = update.state.doc.toString();
            handlers.current.onChange(current.current);
          }),
          editorTheme(isDark),
        ],
      }),
    });
    view.current = editor;
    return () => {
      view.current = null;
      editor.destroy();
    };
  }, [isDark, isReadOnly]);

  useEffect(() => {
    const editor = view.current;
    // What was typed here is already in the editor; only a text from elsewhere is put into it.
    if (!editor || text === current.current) return;
    editor.dispatch({ changes: { from: 0, to: editor.state.doc.length, insert: text } });
  }, [text]);

  useEffect(() => {
    const editor = view.current;
    if (!editor || !check) return;
    const diagnostics = [
      ...check.errors.map((error) => diagnosticOf(editor, error, 'error')),
      ...check.findings.map((finding) => diagnosticOf(editor, finding, 'warning')),
    ];
    editor.dispatch(setDiagnostics(editor.state, diagnostics));
  }, [check, isDark, isReadOnly]);

  useEffect(() => {
    const editor = view.current;
    if (!editor || !goTo) return;
    const line = editor.state.doc.line(Math.min(Math.max(goTo.line, 1), editor.state.doc.lines));
    editor.dispatch({
      selection: { anchor: line.from, head: line.to },
      effects: EditorView.scrollIntoView(line.from, { y: 'center' }),
    });
    editor.focus();
  }, [goTo, isDark, isReadOnly]);

  return <div className={css.editor} ref={host} />;
}

function diagnosticOf(
  { state: { doc } }: EditorView,
  {
    line,
    column,
    message,
    remedy,
  }: Pick<queries.ExplainedError, 'line' | 'column' | 'message' | 'remedy'>,
  severity: Diagnostic['severity'],
): Diagnostic {
  const at = doc.line(Math.min(line, doc.lines));
  const from = Math.min(at.from + column - 1, at.to);
  return { from, to: at.to, severity, message: `${message} ${remedy}` };
}
