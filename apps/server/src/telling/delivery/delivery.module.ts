import { Module } from '@nestjs/common';
import { OwnersModule } from '../../asking/owners/owners.module.ts';
import { ConfigurationModule } from '../../ground/configuration/configuration.module.ts';
import { LiveModule } from '../../ground/live/live.module.ts';
import { OutboxModule } from '../../keeping/outbox/outbox.module.ts';
import { StoreModule } from '../../keeping/store/store.module.ts';
import { ChannelsController } from './channels.controller.ts';
import { Channels } from './channels.service.ts';
import { DeliveryService } from './delivery.service.ts';

@Module({
  imports: [ConfigurationModule, LiveModule, OutboxModule, OwnersModule, StoreModule],
  controllers: [ChannelsController],
  providers: [Channels, DeliveryService],
  exports: [Channels, DeliveryService],
})
export class DeliveryModule {}
