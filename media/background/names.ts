/** The name in its scratch folder of a film whose background was replaced. */
export const BACKGROUND_FILE = 'camera.mp4'
