export { POINT_ORDERS, readPointList } from './point-list.js';
export type { ListedPoint, PointOrder } from './point-list.js';
