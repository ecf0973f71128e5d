import '@angular/compiler';
import { TestBed } from '@angular/core/testing';
import { BrowserTestingModule, platformBrowserTesting } from '@angular/platform-browser/testing';

// Once for all test files of a process, whichever comes first.
TestBed.initTestEnvironment(BrowserTestingModule, platformBrowserTesting());
