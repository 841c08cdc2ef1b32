CREATE TABLE `channel_books` (
	`key` text PRIMARY KEY NOT NULL,
	`body` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `channel_answers` (
	`dispatch` integer NOT NULL,
	`key` text NOT NULL,
	`state` text NOT NULL,
	`reason` text DEFAULT '' NOT NULL,
	`meant` text,
	PRIMARY KEY(`dispatch`, `key`)
);
--> statement-breakpoint
CREATE TABLE `channel_places` (
	`kind` text NOT NULL,
	`name` text NOT NULL,
	`category` text DEFAULT '' NOT NULL,
	`origin` text NOT NULL,
	`day` integer NOT NULL,
	`version` integer DEFAULT 0 NOT NULL,
	`role` text DEFAULT 'unknown' NOT NULL,
	`low` integer,
	`typical` integer,
	`high` integer,
	`monthly_views` integer,
	`places` integer DEFAULT 1 NOT NULL,
	`title` text DEFAULT '' NOT NULL,
	`price` integer,
	`rating` real,
	`reviews` integer,
	`who` text DEFAULT '' NOT NULL,
	PRIMARY KEY(`kind`, `name`, `category`, `origin`)
);
--> statement-breakpoint
CREATE TABLE `channel_state` (
	`id` integer PRIMARY KEY NOT NULL,
	`kind` text DEFAULT 'market' NOT NULL,
	`address` text DEFAULT '' NOT NULL,
	`token` text,
	`about` text,
	`told_on` text DEFAULT '' NOT NULL,
	`told_at` integer,
	`places_version` integer DEFAULT 0 NOT NULL
);
--> statement-breakpoint
ALTER TABLE `basket` ADD `refused` text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `dispatches` ADD `channel` text DEFAULT 'market' NOT NULL;--> statement-breakpoint
INSERT INTO `channel_books` (`key`, `body`) SELECT `key`, `body` FROM `records`;--> statement-breakpoint
INSERT INTO `channel_places` (`kind`, `name`, `category`, `origin`, `day`, `role`, `title`, `price`, `rating`, `reviews`, `who`)
SELECT 'listing', `listing`, `category`, 'pasted', `at` / 86400000, 'unknown', `title`, `price`, `rating` / 100.0, `reviews`, `who` FROM `pasted_listings`;
