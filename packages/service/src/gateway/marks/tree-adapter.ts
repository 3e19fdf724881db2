import type { TreeAdapter } from 'parse5';
import { append, childrenOf, detach, nodeOf, plainNode, type TreeNode } from './tree.ts';

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

/** The tree as far as marks need it: what is in what, in no order. */
export const ADAPTER = {
  createDocument: () => plainNode('#document'),
  createDocumentFragment: () => plainNode('#fragment'),
  createElement: nodeOf,
  createCommentNode: () => plainNode(),
  appendChild: append,
  insertBefore: append,
  setTemplateContent: (template: TreeNode, content: TreeNode) => {
    template.content = content;
    // Content stands apart from its template; for marks it is within it.
    append(template, content);
  },
  getTemplateContent: (template: TreeNode) => template.content!,
  setDocumentType: () => undefined,
  setDocumentMode: (document: TreeNode & { mode?: unknown }, mode: unknown) => {
    document.mode = mode;
  },
  getDocumentMode: (document: TreeNode & { mode?: unknown }) => document.mode,
  detachNode: detach,
  insertText: () => undefined,
  insertTextBefore: () => undefined,
  getFirstChild: (node: TreeNode) => node.child,
  getChildNodes: childrenOf,
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
