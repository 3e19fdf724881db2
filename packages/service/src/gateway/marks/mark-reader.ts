import { html, Parser, type Token } from 'parse5';
import { MARK, MENU, PART, UnclearPage } from './marked-page.ts';
import { append, plainNode, type TreeNode } from './tree.ts';
import { ADAPTER, type NodeTypes } from './tree-adapter.ts';

/** Where browsers differ in how they read a page. */
export interface Variant {
  /** With scripts, what is in `noscript` is text. */
  readonly scripting: boolean;
  /** Whether `select` may hold any element, as it may in newer browsers. */
  readonly richSelect: boolean;
}

/** Browsers put elements that are nested deeper beside each other. */
const DEEPEST = 500;
const MOST_ATTRIBUTES = 1000;

/** Some of the text of a page, and the nodes of the tree that they stand for. */
interface Piece {
  readonly start: number;
  readonly end: number;
  /** They go where all of these are hidden. */
  nodes: readonly TreeNode[];
  /** The element with a mark that was open at that point, though what stands here was put elsewhere. */
  movedFrom: TreeNode | null;
}

type Located<T> = T & { piece?: Piece };

/** The parser, with a note of which bytes made which nodes. */
export class MarkReader extends Parser<NodeTypes> {
  readonly elements: TreeNode[] = [];
  private readonly all: Piece[] = [];
  private readonly claimed = new Set<object>();
  private readonly openMarks: TreeNode[] = [];
  private popped: TreeNode[] | null = null;
  private created: TreeNode[] = [];
  private lastEnd = 0;

  constructor(
    private readonly source: string,
    private readonly variant: Variant,
    /** Whether the last tag gave its attributes to the root or the body, which are there already. */
    private readonly merging: { is: boolean } = { is: false },
  ) {
    super({
      scriptingEnabled: variant.scripting,
      sourceCodeLocationInfo: true,
      treeAdapter: {
        ...ADAPTER,
        adoptAttributes: () => {
          merging.is = true;
        },
      },
    });
  }

  read(chunk: string, isLast: boolean): void {
    this.tokenizer.write(chunk, isLast);
    // Not for others to see, and nothing else tells how long a tag is before it ends.
    const { currentToken } = this.tokenizer as unknown as {
      readonly currentToken: Partial<Token.TagToken> | null;
    };
    const attributes = currentToken?.attrs;
    if ((attributes?.length ?? 0) > MOST_ATTRIBUTES)
      throw new UnclearPage(`a tag has more than ${MOST_ATTRIBUTES} attributes`);
  }

  pieces(): readonly Piece[] {
    if (this.source.slice(this.lastEnd).toLowerCase().includes(MARK))
      throw new UnclearPage('it ends within a tag that has a mark');
    return this.all;
  }

  override onStartTag(token: Located<Token.TagToken>): void {
    if (this.isAgain(token)) {
      super.onStartTag(token);
      return;
    }
    const piece = this.begin(token);
    this.merging.is = false;
    super.onStartTag(token);
    if (this.claimed.has(piece)) return;
    if (this.hasMerged()) piece.nodes = [];
    // The parser took no notice of the tag, and browsers that know more may.
    if (token.attrs.some(({ name }) => name === PART || name === MENU))
      throw new UnclearPage(`a mark is on a tag <${token.tagName}> that makes no element`);
  }

  override onEndTag(token: Located<Token.TagToken>): void {
    if (this.isAgain(token)) {
      super.onEndTag(token);
      return;
    }
    const piece = this.begin(token);
    const popped: TreeNode[] = [];
    this.popped = popped;
    this.created = [];
    super.onEndTag(token);
    // The end of a page is not within anything; other tags end what they took off the stack, or made, or nothing.
    if (token.tagName === 'body' || token.tagName === 'html') piece.nodes = [];
    else if (popped.length > 0) piece.nodes = popped;
    else if (this.created.length > 0) piece.nodes = this.created;
    this.popped = null;
  }

  override _startTagOutsideForeignContent(token: Token.TagToken): void {
    const { richSelect } = this.variant;
    const mode = this.insertionMode;
    const wasInSelect = richSelect && this.isInSelect();
    const isSelect = richSelect && token.tagName === 'select';
    if (wasInSelect && LEAVES_SELECT.has(token.tagName)) this.leaveSelect();
    if (isSelect && wasInSelect) return;
    super._startTagOutsideForeignContent(token);
    if (isSelect) this.insertionMode = mode;
  }

  override _endTagOutsideForeignContent(token: Token.TagToken): void {
    if (!this.variant.richSelect || !this.isInSelect()) super._endTagOutsideForeignContent(token);
    else if (token.tagName === 'select') this.leaveSelect();
    else if (this.isOpenWithinSelect(token.tagID)) super._endTagOutsideForeignContent(token);
  }

  override onComment(token: Located<Token.CommentToken>): void {
    if (!this.isAgain(token)) this.begin(token);
    super.onComment(token);
  }

  override onDoctype(token: Token.DoctypeToken): void {
    this.lastEnd = token.location!.endOffset;
    super.onDoctype(token);
  }

  override onCharacter(token: Located<Token.CharacterToken>): void {
    if (!this.isAgain(token)) this.begin(token);
    super.onCharacter(token);
  }

  override onWhitespaceCharacter(token: Located<Token.CharacterToken>): void {
    if (!this.isAgain(token)) this.begin(token);
    super.onWhitespaceCharacter(token);
  }

  override onNullCharacter(token: Located<Token.CharacterToken>): void {
    if (!this.isAgain(token)) this.begin(token);
    super.onNullCharacter(token);
  }

  override onItemPush(node: TreeNode, tagId: number, isTop: boolean): void {
    super.onItemPush(node, tagId, isTop);
    if (node.part !== null) this.openMarks.push(node);
    if (this.openElements.stackTop > DEEPEST)
      throw new UnclearPage(`elements are nested deeper than ${DEEPEST}`);
  }

  override onItemPop(node: TreeNode, isTop: boolean): void {
    super.onItemPop(node, isTop);
    this.popped?.push(node);
    if (node.part !== null) this.openMarks.splice(this.openMarks.lastIndexOf(node), 1);
  }

  override _insertCharacters(token: Located<Token.CharacterToken>): void {
    const isMoved = this._shouldFosterParentOnInsertion();
    const parent = isMoved
      ? this._findFosterParentingLocation().parent
      : this.openElements.currentTmplContentOrNode;
    const node = plainNode();
    node.hasText = /[^\s]/.test(token.chars);
    append(parent, node);
    if (token.piece) this.settle(token.piece, node, isMoved);
  }

  override _appendCommentNode(token: Located<Token.CommentToken>, parent: TreeNode): void {
    const node = plainNode();
    append(parent, node);
    if (token.piece) token.piece.nodes = [node];
  }

  override _attachElementToTree(
    element: TreeNode,
    location: Token.LocationWithAttributes | null,
    place: Parameters<Parser<NodeTypes>['_attachElementToTree']>[2],
  ): void {
    const isMoved = this._shouldFosterParentOnInsertion();
    append(place.parent, element);
    this.elements.push(element);
    this.created.push(element);
    if (this.elements.length > this.source.length / 2 + 1000)
      throw new UnclearPage('it makes more elements than it has tags for');
    const currentToken: Located<Token.Token> | null = this.currentToken;
    const piece = currentToken?.piece;
    // Elements that browsers repeat, such as <b> in each paragraph, come from the first tag.
    if (!piece || currentToken.location !== location || this.claimed.has(piece)) return;
    this.claimed.add(piece);
    this.settle(piece, element, isMoved);
  }

  /** Whether the parser hands a token to itself once more. */
  private isAgain({ piece }: Located<Token.Token>): boolean {
    return piece !== undefined;
  }

  private begin(token: Located<Token.Token>): Piece {
    const { startOffset: start, endOffset: end } = token.location!;
    const { current } = this.openElements;
    this.lastEnd = end;
    const piece: Piece = { start, end, nodes: current ? [current] : [], movedFrom: null };
    token.piece = piece;
    this.all.push(piece);
    return piece;
  }

  private settle(piece: Piece, node: TreeNode, isMoved: boolean): void {
    piece.nodes = [node];
    if (isMoved) piece.movedFrom = this.openMarks.at(-1) ?? null;
  }

  private hasMerged(): boolean {
    return this.merging.is;
  }

  private isInSelect(): boolean {
    return this.openElements.indexOfTopmost(html.TAG_ID.SELECT) > 0;
  }

  private isOpenWithinSelect(tagId: html.TAG_ID): boolean {
    const select = this.openElements.indexOfTopmost(html.TAG_ID.SELECT);
    return this.openElements.indexOfTopmost(tagId) > select;
  }

  private leaveSelect(): void {
    if (!this.openElements.hasInScope(html.TAG_ID.SELECT)) return;
    this.openElements.generateImpliedEndTags();
    this.openElements.popUntilTagNamePopped(html.TAG_ID.SELECT);
  }
}

/** Tags that end a `select`, also where it may hold any element. */
const LEAVES_SELECT: ReadonlySet<string> = new Set(['select', 'input']);
