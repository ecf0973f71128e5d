export { flowOver, type Flow } from './flow.js';
export { channelsOf, sinksOf, type Channel, type Sink } from './channels.js';
