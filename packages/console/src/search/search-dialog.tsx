import { useRef, useState } from 'react';
import { AutoComplete, Modal, type RefSelectProps } from 'antd';
import { useQuery } from '@tanstack/react-query';
import { useNavigate } from 'react-router';
import { documentQuery } from '../changes/document-query.ts';
import { findingsQuery } from '../changes/findings-query.ts';
import type { Pending } from '../changes/use-pending.ts';
import css from './search.module.css';
import { search, targetsOf } from './targets.ts';

export interface SearchDialogProps {
  readonly site: string;
  readonly pending: Pending;
  /** What was typed before the search had loaded. */
  readonly typed: string;
  onClose(): void;
}

/** Finds pages, rules, visitors, redirects, findings and commands by what they are called. */
export function SearchDialog({ site, pending, typed, onClose }: SearchDialogProps) {
  const [text, setText] = useState(typed);
  const field = useRef<RefSelectProps>(null);
  const navigate = useNavigate();
  const document = useQuery(documentQuery(site, pending));
  const check = useQuery(findingsQuery(site, pending));
  const found = search(targetsOf(document.data ?? {}, check.data?.findings ?? []), text);
  return (
    <Modal
      open
      className={css.dialog!}
      title="Search"
      footer={null}
      afterOpenChange={() => field.current?.focus()}
      onCancel={onClose}
      destroyOnHidden
    >
      <AutoComplete
        aria-label="Search this site"
        ref={field}
        open
        autoFocus
        defaultActiveFirstOption
        placeholder="A page, a rule, a visitor, an address, a command"
        style={{ width: '100%' }}
        getPopupContainer={(input: HTMLElement) => input.parentElement!}
        listHeight={360}
        value={text}
        onChange={setText}
        // The list is open as long as the dialog: the key would close that alone, and so nothing.
        onKeyDown={({ key }) => {
          if (key === 'Escape') onClose();
        }}
        onSelect={(to: string) => {
          onClose();
          void navigate(`/sites/${site}${to}`);
        }}
        notFoundContent="Nothing has these words."
        options={[...found].map(([group, targets]) => ({
          label: group,
          options: targets.map(({ title, to }) => ({ value: to, label: title })),
        }))}
      />
    </Modal>
  );
}
