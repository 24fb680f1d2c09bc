<template><h1>Thaw</h1></template>
