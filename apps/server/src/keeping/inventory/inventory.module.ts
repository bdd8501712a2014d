import { Module } from '@nestjs/common';
import { LiveModule } from '../../ground/live/live.module.ts';
import { InventoryService } from './inventory.service.ts';
import { InventoryStore } from './inventory.store.ts';

@Module({ imports: [LiveModule], providers: [InventoryService, InventoryStore], exports: [InventoryService] })
export class InventoryModule {}
