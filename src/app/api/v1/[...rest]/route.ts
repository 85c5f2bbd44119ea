import { problem } from '../../http/answers.ts';

const nothing = async (): Promise<Response> =>
  problem({ code: 'not-found', message: 'The API has nothing at this address.', remedy: 'See /api/v1/openapi.json.' });

export { nothing as GET, nothing as POST, nothing as PUT, nothing as DELETE, nothing as PATCH };
