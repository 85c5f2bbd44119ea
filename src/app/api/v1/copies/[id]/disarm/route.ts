import { arming } from '../../../../http/arming.ts';
import { services } from '../../../../http/services.ts';

export const POST = arming('disarmed', (id) => services().copies.disarm(id));
