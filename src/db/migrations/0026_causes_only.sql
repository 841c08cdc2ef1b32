ALTER TABLE `basket` DROP COLUMN `source`;--> statement-breakpoint
ALTER TABLE `basket` DROP COLUMN `reason`;