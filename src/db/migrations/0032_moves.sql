CREATE TABLE `house_rules` (
	`key` text PRIMARY KEY NOT NULL,
	`value` real NOT NULL,
	`who` text NOT NULL,
	`at` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `move_batches` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`who` text NOT NULL,
	`at` integer NOT NULL,
	`day` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `moves_accepted` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`batch` integer NOT NULL,
	`key` text NOT NULL,
	`proposer` text NOT NULL,
	`about` text NOT NULL,
	`what` text NOT NULL,
	`why` text NOT NULL,
	`items` text NOT NULL,
	`expected` text NOT NULL
);
--> statement-breakpoint
CREATE INDEX `moves_accepted_by_batch` ON `moves_accepted` (`batch`);--> statement-breakpoint
CREATE TABLE `moves_decided` (
	`key` text PRIMARY KEY NOT NULL,
	`how` text NOT NULL,
	`reason` text DEFAULT '' NOT NULL,
	`until` text DEFAULT '' NOT NULL,
	`clicks` real NOT NULL,
	`orders` real NOT NULL,
	`amount` integer,
	`who` text NOT NULL,
	`at` integer NOT NULL
);
