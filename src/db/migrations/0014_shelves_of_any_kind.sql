CREATE TABLE `label_columns` (
	`no` integer PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`set_key` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `label_feed` (
	`id` integer PRIMARY KEY NOT NULL,
	`token` text NOT NULL,
	`fetched_at` integer,
	`fetched` blob
);
--> statement-breakpoint
CREATE TABLE `shelf_moves` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`set_key` text NOT NULL,
	`at` integer NOT NULL,
	`day` integer NOT NULL,
	`count` integer NOT NULL,
	`moves` blob NOT NULL
);
--> statement-breakpoint
CREATE INDEX `shelf_moves_by_day` ON `shelf_moves` (`set_key`,`day`);--> statement-breakpoint
CREATE TABLE `shelf_picks` (
	`set_key` text NOT NULL,
	`shelf` text NOT NULL,
	`item` text NOT NULL,
	`from_day` integer,
	`until_day` integer,
	`at` integer NOT NULL,
	PRIMARY KEY(`set_key`, `shelf`, `item`)
);
--> statement-breakpoint
ALTER TABLE `shelf_sets` ADD `codes` text;--> statement-breakpoint
ALTER TABLE `shelf_sets` ADD `stamp` text;--> statement-breakpoint
ALTER TABLE `shelf_sets` ADD `held` text;--> statement-breakpoint
ALTER TABLE `shelf_sets` ADD `place` integer DEFAULT 0 NOT NULL;