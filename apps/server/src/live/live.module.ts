import { Module } from '@nestjs/common';
import { AccessModule } from '../access/access.module.ts';
import { LiveController } from './live.controller.ts';
import { LiveService } from './live.service.ts';

@Module({ imports: [AccessModule], controllers: [LiveController], providers: [LiveService], exports: [LiveService] })
export class LiveModule {}
