CREATE TABLE `report_arrivals` (
	`import` integer NOT NULL,
	`day` integer NOT NULL,
	`age` integer NOT NULL,
	`orders` real NOT NULL,
	`revenue` integer NOT NULL,
	PRIMARY KEY(`import`, `day`)
);
