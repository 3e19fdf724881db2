import { MENU, PART, UnclearPage, type Mark, type MarkedBytes } from './marked-page.ts';
import type { PageText } from './page-text.ts';

/** A node of a page, as far as marks need it. Text and comments have no tag. */
export interface TreeNode {
  readonly tag: string;
  readonly namespace: string;
  readonly attributes: readonly { readonly name: string; readonly value: string }[];
  /** The names in its marks, and where it links to; null where it has none. */
  readonly part: string | null;
  readonly menu: string | null;
  readonly href: string | null;
  parent: TreeNode | null;
  /** A child, the others of which follow; in no order. */
  child: TreeNode | null;
  next: TreeNode | null;
  previous: TreeNode | null;
  /** The content of a template. */
  content: TreeNode | null;
  /** It is text, and not only white space. */
  hasText: boolean;
  /** The nearest mark that it is in; undefined where that was not looked for yet. */
  mark: Mark | null | undefined;
}

/** A node that is in nothing yet. */
export function nodeOf(
  tag: string,
  namespace: string,
  attributes: TreeNode['attributes'],
): TreeNode {
  let part: string | null = null;
  let menu: string | null = null;
  let href: string | null = null;
  // The first of two attributes counts.
  for (const { name, value } of attributes) {
    if (name === PART) part ??= value;
    else if (name === MENU) menu ??= value;
    else if (name === 'href' && tag === 'a') href ??= value;
  }
  return {
    tag,
    namespace,
    attributes,
    part,
    menu,
    href,
    parent: null,
    child: null,
    next: null,
    previous: null,
    content: null,
    hasText: false,
    mark: undefined,
  };
}

/** A node for text, a comment or a document. */
export const plainNode = (tag = ''): TreeNode => nodeOf(tag, '', NO_ATTRIBUTES);

const NO_ATTRIBUTES: TreeNode['attributes'] = [];

/** Puts a node into another. */
export function append(parent: TreeNode, node: TreeNode): void {
  if (node.parent !== null) detach(node);
  node.parent = parent;
  node.next = parent.child;
  if (parent.child !== null) parent.child.previous = node;
  parent.child = node;
}

/** Takes a node out of what it is in. */
export function detach(node: TreeNode): void {
  if (node.previous !== null) node.previous.next = node.next;
  else if (node.parent?.child === node) node.parent.child = node.next;
  if (node.next !== null) node.next.previous = node.previous;
  node.parent = node.next = node.previous = null;
}

/** The nodes in a node, in no order. */
export function childrenOf({ child }: TreeNode): TreeNode[] {
  const all: TreeNode[] = [];
  for (let one = child; one !== null; one = one.next) all.push(one);
  return all;
}

/** Some of the text, and the nodes that it stands for. */
interface Piece {
  readonly start: number;
  readonly end: number;
  readonly nodes: readonly TreeNode[];
  readonly movedFrom: TreeNode | null;
}

/** An entry of a menu with one of these is more than its links. */
const MEANS_SOMETHING: ReadonlySet<string> = new Set([
  ...['button', 'form', 'img', 'input', 'select', 'textarea', 'video', 'audio', 'iframe', 'svg'],
  ...['ul', 'ol', 'details', 'object', 'embed', 'canvas', 'picture', 'math'],
]);

/**
 * Tells which bytes are in which marks, once the tree is whole.
 * @throws UnclearPage where the parser moved something out of a marked element
 */
export function markedTree(
  pieces: readonly Piece[],
  elements: readonly TreeNode[],
  { valueOf, bytesAt }: PageText,
): MarkedBytes[] {
  const menusOf = (node: TreeNode): string[] => {
    const menus: string[] = [];
    for (let at: TreeNode | null = node; at !== null; at = at.parent)
      if (at.menu !== null) menus.push(valueOf(at.menu));
    return menus;
  };
  const hasMenus = elements.some(({ menu }) => menu !== null);
  const links = new Map<TreeNode, Mark>();

  const markOf = (node: TreeNode): Mark | null => {
    if (node.mark !== undefined) return node.mark;
    const above = node.parent === null ? null : markOf(node.parent);
    node.mark = ownMark(node, above) ?? above;
    return node.mark;
  };
  const ownMark = (node: TreeNode, above: Mark | null): Mark | null => {
    if (node.part !== null) return { is: 'part', name: valueOf(node.part), above };
    if (!hasMenus) return null;
    if (node.href !== null) {
      const menus = menusOf(node);
      if (menus.length === 0) return null;
      const link: Mark = { is: 'link', href: valueOf(node.href), menus, above };
      links.set(node, link);
      return link;
    }
    return node.tag === 'li' && menusOf(node).length > 0 ? entryMark(node, above) : null;
  };
  const entryMark = (node: TreeNode, above: Mark | null): Mark | null => {
    const inside: TreeNode[] = [];
    const look = (one: TreeNode): boolean => {
      if (one.href !== null) {
        inside.push(one);
        return true;
      }
      if (one.hasText || MEANS_SOMETHING.has(one.tag)) return false;
      return childrenOf(one).every(look);
    };
    if (node.hasText || !childrenOf(node).every(look) || inside.length === 0) return null;
    const own: { is: 'entry'; links: Mark[]; above: Mark | null } = {
      is: 'entry',
      links: [],
      above,
    };
    node.mark = own;
    own.links.push(...inside.map((one) => markOf(one)!));
    return own;
  };

  const marked: MarkedBytes[] = [];
  for (const { start, end, nodes, movedFrom } of pieces) {
    if (movedFrom !== null && !nodes.some((node) => isWithin(node, movedFrom)))
      throw new UnclearPage(
        'something in a marked element is put outside of it, as text in a table',
      );
    // All that it stands for must be marked.
    if (nodes.length === 0 || nodes.some((node) => markOf(node) === null)) continue;
    const marks = [...new Set(nodes.map((node) => markOf(node)!))];
    const before = marked.at(-1);
    if (before?.end === start && isSameList(before.marks, marks))
      marked[marked.length - 1] = { ...before, end };
    else marked.push({ start, end, marks });
  }
  const places = bytesAt(marked.flatMap(({ start, end }) => [start, end]));
  return marked.map(({ marks }, i) => ({
    start: places[2 * i]!,
    end: places[2 * i + 1]!,
    marks,
  }));
}

const isSameList = (one: readonly Mark[], other: readonly Mark[]): boolean =>
  one.length === other.length && one.every((mark, i) => mark === other[i]);

function isWithin(node: TreeNode, above: TreeNode): boolean {
  for (let at: TreeNode | null = node; at !== null; at = at.parent) if (at === above) return true;
  return false;
}
