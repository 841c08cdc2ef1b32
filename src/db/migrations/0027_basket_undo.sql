CREATE TABLE `basket_undo` (
	`id` text PRIMARY KEY NOT NULL,
	`at` integer NOT NULL,
	`size` integer NOT NULL,
	`words` text NOT NULL,
	`rows` blob NOT NULL,
	`plans` text NOT NULL,
	`undone_at` integer
);
