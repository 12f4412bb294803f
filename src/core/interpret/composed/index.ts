export { openComposed, readComposed, type Composed } from './composed';
export { areOfMessages } from './fields';
