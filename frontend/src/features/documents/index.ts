export { DocumentList } from './DocumentList';
