import { Module } from '@nestjs/common';
import { LiveModule } from '../../ground/live/live.module.ts';
import { OutboxModule } from '../../keeping/outbox/outbox.module.ts';
import { DeliveryService } from './delivery.service.ts';

@Module({ imports: [LiveModule, OutboxModule], providers: [DeliveryService], exports: [DeliveryService] })
export class DeliveryModule {}
