CREATE TABLE `stocktake_aliases` (
	`kind` text NOT NULL,
	`key` text NOT NULL,
	`no` integer NOT NULL,
	PRIMARY KEY(`kind`, `key`)
);
--> statement-breakpoint
CREATE TABLE `stocktake_chapters` (
	`stocktake` integer NOT NULL,
	`key` text NOT NULL,
	`made` text NOT NULL,
	PRIMARY KEY(`stocktake`, `key`)
);
--> statement-breakpoint
CREATE TABLE `stocktake_dismissals` (
	`finding` text PRIMARY KEY NOT NULL,
	`reason` text NOT NULL,
	`who` text NOT NULL,
	`at` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `stocktake_style` (
	`id` integer PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`logo` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `stocktakes` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`job` text NOT NULL,
	`at` integer NOT NULL,
	`who` text NOT NULL,
	`name` text NOT NULL,
	`head` text,
	`remarks` text NOT NULL,
	`removed_at` integer,
	`chapters` text
);
