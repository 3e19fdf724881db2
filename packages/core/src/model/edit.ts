import type { ListSection, NamedSection } from './section.ts';

/**
 * A change of a site file as someone means it. It names what it changes, never a line or a position,
 * so that it still means the same after others changed the file. One that replaces a value shows it in `was`: where
 * others gave it another value meanwhile, the edit can't be made, and nobody's change is undone unseen.
 */
export type Edit =
  /** Adds an entry (`was` is null), or gives another value to the one that `was` shows. */
  | {
      readonly do: 'put';
      readonly section: NamedSection;
      readonly name: string;
      readonly was: unknown;
      readonly value: unknown;
    }
  | {
      readonly do: 'remove';
      readonly section: NamedSection;
      readonly name: string;
      readonly was: unknown;
    }
  /** Adds an entry to a list (`was` is null), changes the one that `was` shows, or removes it (`value` is null). */
  | {
      readonly do: 'put-item';
      readonly section: ListSection;
      readonly was: unknown;
      readonly value: unknown;
    }
  /** The same with several entries of one list: all of them, or none where one is not there any more. */
  | {
      readonly do: 'put-items';
      readonly section: ListSection;
      readonly items: readonly { readonly was: unknown; readonly value: unknown }[];
    }
  /** Renames an entry, and with it every mention in the rules. */
  | {
      readonly do: 'rename';
      readonly section: Exclude<NamedSection, 'site' | 'pages'>;
      readonly name: string;
      readonly to: string;
    }
  /** Gives a page another address; every rule that names the old one follows. */
  | {
      readonly do: 'move-page';
      readonly from: string;
      readonly to: string;
      /** The pages beneath it move too. */
      readonly beneath: boolean;
      /** A permanent redirect leads from the old address to the new one. */
      readonly redirect: boolean;
    }
  /** Gives a page the settings of another, and puts it behind the gates that name the other. */
  | { readonly do: 'copy-settings'; readonly from: string; readonly to: string };
