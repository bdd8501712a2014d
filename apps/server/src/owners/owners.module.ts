import { Module } from '@nestjs/common';
import { TypeOrmModule } from '@nestjs/typeorm';
import { OwnersService } from './owners.service.ts';
import { TeamEntity, TeamNamespaceEntity } from './team.entity.ts';

@Module({
  imports: [TypeOrmModule.forFeature([TeamEntity, TeamNamespaceEntity])],
  providers: [OwnersService],
  exports: [OwnersService],
})
export class OwnersModule {}
