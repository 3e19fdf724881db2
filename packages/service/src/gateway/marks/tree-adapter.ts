import type { TreeAdapter } from 'parse5';
import { nodeOf, type TreeNode } from './tree.ts';

/** The kinds of nodes, as the parser asks for them: all are one. */
export interface NodeTypes {
  node: TreeNode;
  parentNode: TreeNode;
  childNode: TreeNode;
  document: TreeNode;
  documentFragment: TreeNode;
  element: TreeNode;
  commentNode: TreeNode;
  textNode: TreeNode;
  template: TreeNode;
  documentType: TreeNode;
}

/** Puts a node into another. */
export function append(parent: TreeNode, node: TreeNode): void {
  node.parent = parent;
  (parent.children ??= new Set()).add(node);
}

/** The tree as far as marks need it: what is in what, in no order. */
export const ADAPTER = {
  createDocument: () => nodeOf('#document', '', []),
  createDocumentFragment: () => nodeOf('#fragment', '', []),
  createElement: nodeOf,
  createCommentNode: () => nodeOf('', '', []),
  appendChild: append,
  insertBefore: append,
  setTemplateContent: (template: TreeNode, content: TreeNode) => {
    template.content = content;
    // Content stands apart from its template; for marks it is within it.
    content.parent = template;
    (template.children ??= new Set()).add(content);
  },
  getTemplateContent: (template: TreeNode) => template.content!,
  setDocumentType: () => undefined,
  setDocumentMode: (document: TreeNode & { mode?: unknown }, mode: unknown) => {
    document.mode = mode;
  },
  getDocumentMode: (document: TreeNode & { mode?: unknown }) => document.mode,
  detachNode: (node: TreeNode) => {
    node.parent?.children?.delete(node);
    node.parent = null;
  },
  insertText: () => undefined,
  insertTextBefore: () => undefined,
  getFirstChild: (node: TreeNode) => [...(node.children ?? [])][0] ?? null,
  getChildNodes: (node: TreeNode) => [...(node.children ?? [])],
  getParentNode: (node: TreeNode) => node.parent,
  getAttrList: (node: TreeNode) => node.attributes,
  getTagName: (node: TreeNode) => node.tag,
  getNamespaceURI: (node: TreeNode) => node.namespace,
  getTextNodeContent: () => '',
  getCommentNodeContent: () => '',
  getDocumentTypeNodeName: () => '',
  getDocumentTypeNodePublicId: () => '',
  getDocumentTypeNodeSystemId: () => '',
  isTextNode: () => false,
  isCommentNode: () => false,
  isDocumentTypeNode: () => false,
  isElementNode: (node: TreeNode) => node.namespace !== '',
  setNodeSourceCodeLocation: () => undefined,
  getNodeSourceCodeLocation: () => null,
  updateNodeSourceCodeLocation: () => undefined,
} as unknown as TreeAdapter<NodeTypes>;
