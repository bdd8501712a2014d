import { Module } from '@nestjs/common';
import { OutboxService } from './outbox.service.ts';
import { OutboxStore } from './outbox.store.ts';

@Module({ providers: [OutboxService, OutboxStore], exports: [OutboxService] })
export class OutboxModule {}
