DROP TABLE `facts`;--> statement-breakpoint
ALTER TABLE `market_state` DROP COLUMN `learned`;