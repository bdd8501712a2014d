import { Module } from '@nestjs/common';
import { OwnersModule } from '../owners/owners.module.ts';
import { ViewsController } from './views.controller.ts';
import { ViewsStore } from './views.store.ts';

@Module({ imports: [OwnersModule], controllers: [ViewsController], providers: [ViewsStore] })
export class ViewsModule {}
