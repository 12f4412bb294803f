declare global {
	namespace App {
		interface PageData {
			/** Whether the server was started with the demo case. */
			demo: boolean;
		}
	}
}
export {};
