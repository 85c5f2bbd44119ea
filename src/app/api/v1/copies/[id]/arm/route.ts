import { arming } from '../../../../http/arming.ts';
import { services } from '../../../../http/services.ts';

export const POST = arming('armed', (id, who) => services().copies.arm(id, who));
