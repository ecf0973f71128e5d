export const TOOL_IDS = [
  'look',
  'outline',
  'box',
  'brush',
  'above',
  'below',
  'touch',
  'section',
  'measure',
  'note',
  'pen',
  'lines',
  'triangles',
  'mask',
  'strips',
  'targets',
] as const;
/** What the pointer does in the views; what each of them is stands with the tools. */
export type ToolId = (typeof TOOL_IDS)[number];
