CREATE TABLE `export_profiles` (
	`key` text PRIMARY KEY NOT NULL,
	`definition` text NOT NULL,
	`saved_at` integer NOT NULL
);
