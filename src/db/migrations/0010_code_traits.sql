CREATE TABLE `code_traits` (
	`code` integer NOT NULL,
	`trait` text NOT NULL,
	`value` text NOT NULL,
	PRIMARY KEY(`code`, `trait`)
);
--> statement-breakpoint
CREATE INDEX `code_traits_by_value` ON `code_traits` (`value`);