import { Module } from '@nestjs/common';
import { ConfigurationModule } from '../../ground/configuration/configuration.module.ts';
import { StoreModule } from '../../keeping/store/store.module.ts';
import { ForwardStore } from './forward.store.ts';
import { ForwardingService } from './forwarding.service.ts';
import { ForwardsController } from './forwards.controller.ts';
import { Forwards } from './forwards.service.ts';

@Module({
  imports: [ConfigurationModule, StoreModule],
  controllers: [ForwardsController],
  providers: [Forwards, ForwardingService, ForwardStore],
  exports: [Forwards],
})
export class ForwardingModule {}
