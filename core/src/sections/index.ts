export {
  areasBetween,
  crossSections,
  endAreaVolume,
  heightAt,
  type CrossSection,
  type SectionAreas,
  type SectionSettings,
} from './cross-sections.js';
