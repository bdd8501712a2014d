import { Module } from '@nestjs/common';
import { LiveModule } from '../live/live.module.ts';
import { DeliveryService } from './delivery.service.ts';
import { OutboxStore } from './outbox.store.ts';

@Module({ imports: [LiveModule], providers: [DeliveryService, OutboxStore], exports: [DeliveryService] })
export class DeliveryModule {}
