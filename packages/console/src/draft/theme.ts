import { HighlightStyle, syntaxHighlighting } from '@codemirror/language';
import type { Extension } from '@codemirror/state';
import { EditorView } from '@codemirror/view';
import { tags } from '@lezer/highlight';

const highlight = HighlightStyle.define([
  { tag: tags.comment, color: 'var(--quiet)' },
  { tag: [tags.propertyName, tags.definition(tags.propertyName)], color: 'var(--sign-in)' },
  { tag: [tags.string, tags.content], color: 'var(--text)' },
  { tag: [tags.number, tags.bool, tags.keyword], color: 'var(--away)' },
  { tag: [tags.punctuation, tags.separator, tags.bracket], color: 'var(--quiet)' },
]);

/** The editor in the colours of the console, which all stand out enough from their ground. */
export function editorTheme(isDark: boolean): Extension {
  const theme = EditorView.theme(
    {
      '&': { color: 'var(--text)', backgroundColor: 'var(--ground)' },
      '.cm-gutters': {
        color: 'var(--quiet)',
        backgroundColor: 'var(--bar)',
        borderRight: '1px solid var(--line)',
      },
      '.cm-activeLine, .cm-activeLineGutter': { backgroundColor: 'var(--here)' },
      '.cm-content': { caretColor: 'var(--text)' },
      '.cm-cursor': { borderLeftColor: 'var(--text)' },
      '.cm-tooltip': {
        color: 'var(--text)',
        backgroundColor: 'var(--bar)',
        border: '1px solid var(--line)',
      },
    },
    { dark: isDark },
  );
  return [theme, syntaxHighlighting(highlight)];
}
