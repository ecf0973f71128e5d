export { POINT_ORDERS, readPointList, writePointList } from './point-list.js';
export type { ListedPoint, PointOrder } from './point-list.js';
