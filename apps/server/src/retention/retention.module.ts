import { Module } from '@nestjs/common';
import { ConfigurationModule } from '../configuration/configuration.module.ts';
import { RetentionController } from './retention.controller.ts';
import { RetentionService } from './retention.service.ts';
import { RetentionStore } from './retention.store.ts';

@Module({
  imports: [ConfigurationModule],
  controllers: [RetentionController],
  providers: [RetentionService, RetentionStore],
})
export class RetentionModule {}
