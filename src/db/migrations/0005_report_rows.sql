CREATE TABLE `report_rows` (
	`import` integer NOT NULL,
	`hash` text NOT NULL,
	`day` integer NOT NULL,
	`campaign` integer NOT NULL,
	`b` integer NOT NULL,
	`c` integer NOT NULL,
	`d` integer NOT NULL,
	`impressions` real NOT NULL,
	`clicks` real NOT NULL,
	`cost` real NOT NULL,
	`orders` real NOT NULL,
	`units` real NOT NULL,
	`revenue` real NOT NULL,
	PRIMARY KEY(`import`, `day`, `campaign`, `hash`)
);
