import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { Alert, Button } from 'antd';
import { useQuery } from '@tanstack/react-query';
import { useDebounce } from 'use-debounce';
import { Link, useOutletContext } from 'react-router';
import { ServiceProblem, type Check, type Draft, type ReleaseWithText } from '@kleidon/client';
import type { model } from '@kleidon/core';
import { client } from '../client.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { StateChoice } from '../shell/state-choice.tsx';
import { useAddressState } from '../use-address-state.ts';
import { CheckList } from './check-list.tsx';
import { Conflict } from './conflict.tsx';
import { Editor } from './editor.tsx';
import { keepUnsaved, readUnsaved } from './unsaved.ts';
import { clsx } from 'clsx';
import layout from '../style/layout.module.css';
import css from './site-file.module.css';

/** How long to wait after a key before the text is checked, in milliseconds. */
const PAUSE = 250;

/** The site file: the draft to be edited, saved and released, or a release to be read. */
export function DraftPage({ isDark }: { isDark: boolean }) {
  const { site, releases } = useOutletContext<SiteFrame>();
  const { query } = useAddressState();
  const wanted = query.get('state') ?? 'draft';
  const state = wanted.startsWith('changes-') ? 'draft' : wanted;
  const number = state === 'live' ? releases[0]?.number : Number(state);
  const isDraft = state === 'draft' || number === undefined;
  const loaded = useQuery<Draft | ReleaseWithText>({
    queryKey: ['site file', site.id, state],
    queryFn: () => (isDraft ? client.draft(site.id) : client.findRelease(site.id, number)),
    // The editor begins with it; what others save meanwhile is told when this one is saved.
    gcTime: 0,
    staleTime: Infinity,
  });
  if (loaded.error) return <Failure error={loaded.error} retry={() => void loaded.refetch()} />;
  if (!loaded.data || loaded.isPlaceholderData) return <Waiting what="the site file" />;
  return isDraft ? (
    <DraftEditor key={site.id} draft={loaded.data as Draft} isDark={isDark} />
  ) : (
    <ReleaseReader key={state} text={loaded.data.text} isDark={isDark} />
  );
}

function ReleaseReader({ text, isDark }: { text: string; isDark: boolean }) {
  const { query, change } = useAddressState();
  const goTo = useLineToShow();
  return (
    <div className={clsx(layout.page, css.filePage)}>
      <div className={layout.filters}>
        <h1>Site file</h1>
        <StateChoice
          value={query.get('state')!}
          onChange={(next) => change({ state: next, line: null })}
        />
        <span className={layout.quiet}>A release never changes; edit the draft.</span>
      </div>
      <Editor
        text={text}
        isDark={isDark}
        isReadOnly
        check={null}
        goTo={goTo}
        onChange={() => {}}
        onSave={() => {}}
      />
    </div>
  );
}

function DraftEditor({ draft, isDark }: { draft: Draft; isDark: boolean }) {
  const { site, reload } = useOutletContext<SiteFrame>();
  const { change } = useAddressState();
  const [before] = useState(() => readUnsaved(site.id));
  const [saved, setSaved] = useState({
    version: before?.version ?? draft.version,
    text: draft.text,
  });
  const [text, setText] = useState(before?.text ?? draft.text);
  const [theirs, setTheirs] = useState<Draft | null>(null);
  const [failure, setFailure] = useState<Error | null>(null);
  const [said, setSaid] = useState(before ? 'What you had typed and not saved is back.' : '');
  const goTo = useLineToShow();
  const check = useCheck(text, site.id);
  const isChanged = text !== saved.text;

  useEffect(() => {
    keepUnsaved(site.id, isChanged ? { version: saved.version, text } : null);
  }, [site.id, isChanged, saved.version, text]);

  // Whoever presses the key twice saves once: the second time would meet what the first one saved.
  const isSaving = useRef(false);
  const save = useCallback(async (): Promise<void> => {
    if (isSaving.current) return;
    isSaving.current = true;
    setFailure(null);
    try {
      const { version } = await client.saveDraft(site.id, saved.version, text);
      setSaved({ version, text });
      setSaid(`Saved as version ${version}.`);
      reload();
    } catch (error) {
      if (error instanceof ServiceProblem && error.code === 'draft-changed')
        setTheirs(await client.draft(site.id));
      else setFailure(error as Error);
    } finally {
      isSaving.current = false;
    }
  }, [site.id, saved.version, text, reload]);

  const applyFix = async (finding: model.Finding): Promise<void> => {
    setFailure(null);
    try {
      const { version } = await client.fixDraft(site.id, saved.version, finding);
      const { text: fixed } = await client.draft(site.id);
      setSaved({ version, text: fixed });
      setText(fixed);
      setSaid(`Fixed, and saved as version ${version}.`);
      reload();
    } catch (error) {
      if (error instanceof ServiceProblem && error.code === 'draft-changed')
        setTheirs(await client.draft(site.id));
      else setFailure(error as Error);
    }
  };

  if (theirs) {
    return (
      <div className={clsx(layout.page, css.filePage)}>
        <Conflict
          mine={text}
          theirs={theirs}
          isDark={isDark}
          onResolve={(resolved) => {
            setSaved({ version: theirs.version, text: theirs.text });
            setText(resolved);
            setTheirs(null);
            setSaid(`You now have version ${theirs.version}.`);
          }}
        />
      </div>
    );
  }

  const errors = check?.errors.length ?? 0;
  return (
    <div className={clsx(layout.page, css.filePage)}>
      <div className={layout.filters}>
        <h1>Site file</h1>
        <StateChoice value="draft" onChange={(next) => change({ state: next, line: null })} />
        <Button type="primary" onClick={() => void save()} disabled={!isChanged} title="Ctrl-S">
          Save
        </Button>
        {!isChanged && errors === 0 && !site.draft.isLive && (
          <Link to={`/sites/${site.id}/review`}>Review and release</Link>
        )}
        <span className={layout.quiet} role="status">
          {isChanged
            ? `Version ${saved.version}, changed and not saved`
            : said || `Version ${saved.version}`}
        </span>
        <span className={layout.grow} />
        <span className={layout.quiet}>{whyNoRelease(isChanged, errors, site.draft.isLive)}</span>
      </div>
      {failure && <Failure error={failure} />}
      {isChanged && text === before?.text && (
        <Alert type="info" showIcon title="What you had typed and not saved is back." closable />
      )}
      <div className={layout.beside}>
        <Editor
          text={text}
          isDark={isDark}
          isReadOnly={false}
          check={check}
          goTo={goTo}
          onChange={setText}
          onSave={() => void save()}
        />
        <CheckList
          check={check}
          whyNotFixable={isChanged ? 'Save first.' : null}
          onFix={(finding) => void applyFix(finding)}
          onGoTo={(line) =>
            change({ line: String(line), round: String(Date.now()) }, { replace: true })
          }
        />
      </div>
    </div>
  );
}

function whyNoRelease(isChanged: boolean, errors: number, isLive: boolean): string {
  if (isChanged) return 'Save before you release.';
  if (errors > 0) return 'A file with errors can be saved, and not released.';
  return isLive ? 'This is live already.' : '';
}

/** Checks a text a moment after it was last changed. */
function useCheck(text: string, site: string): Check | null {
  const [settled] = useDebounce(text, PAUSE);
  const check = useQuery({
    queryKey: ['check', site, settled],
    queryFn: ({ signal }) => client.checkText(settled, signal, site),
    gcTime: 0,
  });
  return check.data ?? null;
}

/** The line that the address names. */
function useLineToShow(): { line: number; round: number } | null {
  const { query } = useAddressState();
  const line = Number(query.get('line') ?? 0);
  const round = Number(query.get('round') ?? 0);
  return useMemo(() => (line > 0 ? { line, round } : null), [line, round]);
}
