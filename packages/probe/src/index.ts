export { crawl, type Crawled, type Limits, type Progress } from './crawl/crawl.ts';
export { WebsiteProblem } from './website-problem.ts';
export { CredentialsProblem, readCredentials, type Credentials } from './visits/credentials.ts';
export {
  probe,
  TooMany,
  type Probed,
  type Probing,
  type Rules,
  type Untried,
} from './visits/probe.ts';
