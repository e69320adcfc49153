export { DocumentList } from './rows/DocumentList';
