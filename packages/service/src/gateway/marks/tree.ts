import { MENU, PART, UnclearPage, type Mark, type MarkedBytes } from './marked-page.ts';

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
  children: Set<TreeNode> | null;
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
  const value = (name: string): string | null =>
    attributes.find((one) => one.name === name)?.value ?? null;
  return {
    tag,
    namespace,
    attributes,
    part: value(PART),
    menu: value(MENU),
    href: tag === 'a' ? value('href') : null,
    parent: null,
    children: null,
    content: null,
    hasText: false,
    mark: undefined,
  };
}

/** Some bytes, and the nodes that they stand for. */
interface Bytes {
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
 * @param valueOf the text that the value of an attribute stands for
 * @throws UnclearPage where the parser moved something out of a marked element
 */
export function markedTree(
  pieces: readonly Bytes[],
  elements: readonly TreeNode[],
  valueOf: (value: string) => string,
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
      return [...(one.children ?? [])].every(look);
    };
    if (node.hasText || ![...(node.children ?? [])].every(look) || inside.length === 0) return null;
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
    const marks: Mark[] = [];
    let isMarked = nodes.length > 0;
    for (const node of nodes) {
      const mark = markOf(node);
      if (mark === null) isMarked = false;
      else if (!marks.includes(mark)) marks.push(mark);
    }
    if (movedFrom !== null && !nodes.some((node) => isWithin(node, movedFrom)))
      throw new UnclearPage(
        'something in a marked element is put outside of it, as text in a table',
      );
    if (!isMarked) continue;
    const before = marked.at(-1);
    if (before?.end === start && isSameList(before.marks, marks))
      marked[marked.length - 1] = { ...before, end };
    else marked.push({ start, end, marks });
  }
  return marked;
}

const isSameList = (one: readonly Mark[], other: readonly Mark[]): boolean =>
  one.length === other.length && one.every((mark, i) => mark === other[i]);

function isWithin(node: TreeNode, above: TreeNode): boolean {
  for (let at: TreeNode | null = node; at !== null; at = at.parent) if (at === above) return true;
  return false;
}
