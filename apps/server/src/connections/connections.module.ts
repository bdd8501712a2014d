import { Module } from '@nestjs/common';
import { TypeOrmModule } from '@nestjs/typeorm';
import { ConfigurationModule } from '../configuration/configuration.module.ts';
import { InventoryModule } from '../inventory/inventory.module.ts';
import { LiveModule } from '../live/live.module.ts';
import { ConnectionEntity } from './connection.entity.ts';
import { ConnectionsController } from './connections.controller.ts';
import { ConnectionsService } from './connections.service.ts';

@Module({
  imports: [TypeOrmModule.forFeature([ConnectionEntity]), ConfigurationModule, InventoryModule, LiveModule],
  controllers: [ConnectionsController],
  providers: [ConnectionsService],
  exports: [ConnectionsService],
})
export class ConnectionsModule {}
